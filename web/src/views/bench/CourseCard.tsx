// One set-up and its course: the line it comes to, the wire as it is now, the figures of the moment, the chart, in turn.
import { PlainTable } from "../../parts/PlainTable";
import { memo, type ReactNode } from "react";
import type { Course } from "../../api/bench";
import type { Drawing } from "../../api/client";
import { Fold } from "../../parts/Fold";
import { amps, celsius, heat, volts } from "../../parts/format";
import { Shapes } from "../../parts/Picture";
import { Verdict, type Grade } from "../../parts/Verdict";
import { WireNow } from "./WireNow";

function Now({ name, value }: { name: string; value: string }) {
  return (
    <div className="min-w-20">
      <dt className="text-xs text-soft">{name}</dt>
      <dd className="text-lg leading-6 font-bold whitespace-nowrap">{value}</dd>
    </div>
  );
}

const nothing = () => undefined;

const Chart = memo(function Chart({ drawing }: { drawing: Drawing }) {
  return <Shapes drawing={drawing} onOpen={nothing} />;
});

export function CourseCard({ course, frame, title, form, children }: { course: Course; frame: number; title: string; form: ReactNode; children?: ReactNode }) {
  const { frames, told, chart } = course;
  const drawing = chart.drawing as Drawing;
  const now = (values: readonly number[] | undefined) => values?.[frame] ?? 0;
  const x = chart.at_px[frame] ?? 0;
  return (
    <section aria-label={title} className="min-w-0 space-y-2 border border-line bg-sheet px-3 pt-1 pb-3">
      <Fold
        title={
          <span className="text-[15px]">
            <b>{told.setup}</b> <span className="text-soft underline">change</span>
          </span>
        }
      >
        {form}
      </Fold>
      <p className="flex flex-wrap items-baseline gap-2">
        <Verdict grade={told.verdict as Grade} />
        <span>{told.outcome}</span>
      </p>
      <WireNow course={course} frame={frame} width={course.copper_px} />
      <dl className="flex flex-wrap gap-x-4 gap-y-1">
        <Now name="Copper" value={celsius(now(frames.conductor_c))} />
        <Now name="Surface" value={celsius(now(frames.surface_c))} />
        <Now name="Joint" value={celsius(now(frames.joint_c))} />
        {course.setup.wire?.neighbours ? <Now name="Wires beside it" value={celsius(now(frames.neighbours_c))} /> : null}
        <Now name="Current" value={amps(now(frames.current_a))} />
        <Now name="At the load" value={volts(now(frames.load_v))} />
        <Now name="Let through" value={heat(now(frames.let_through_a2s))} />
      </dl>
      <div className="relative [&>svg]:block [&>svg]:h-auto [&>svg]:w-full [&>svg]:max-w-full">
        <Chart drawing={drawing} />
        <svg viewBox={`0 0 ${drawing.width} ${drawing.height}`} className="pointer-events-none absolute inset-0" aria-hidden>
          <path d={`M${x} ${chart.top_px}V${chart.bottom_px}`} stroke="var(--ink)" strokeWidth="1.5" />
        </svg>
      </div>
      {children}
      <p className="text-sm text-soft">{drawing.note}</p>
      {course.happened.length > 0 && (
        <ol aria-label="In turn" className="space-y-0.5 text-sm">
          {course.happened.map((one) => (
            <li key={`${one.what} ${one.where}`} className={one.frame <= frame ? "font-semibold" : "text-soft"}>
              {one.text}
            </li>
          ))}
        </ol>
      )}
      <Fold title={`What this can't know (${told.unknown?.length ?? 0})`}>
        <ul className="list-disc space-y-1 pl-6 text-sm">
          {told.unknown?.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      </Fold>
      <Fold title="The same as a table">
        <PlainTable title={drawing.title} columns={drawing.columns} rows={drawing.rows} />
      </Fold>
    </section>
  );
}
