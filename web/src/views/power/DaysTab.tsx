// The days: how full the bank is, fair and poor, what comes in and goes out; a year on demand, with progress.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import type { Drawing } from "../../api/client";
import { daysQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { FileButton } from "../../parts/FileButton";
import { Figure } from "../../parts/Figure";
import { hoursLong, percent, wattHours } from "../../parts/format";
import { Shapes } from "../../parts/Picture";
import { OneOf } from "../../parts/OneOf";
import { usePlan } from "../../parts/plan";
import { Progress } from "../../parts/Progress";
import { headsOf, WideTable } from "../../parts/WideTable";
import { HabitsForm } from "./HabitsForm";
import { lines, weatherQuery, type Days } from "./queries";
import { bringWeather, useYear } from "./year";

const SPANS = [
  ["3", "3 days"],
  ["7", "7 days"],
  ["14", "14 days"],
  ["year", "Year"],
] as const;
type Span = "3" | "7" | "14";
const SOURCE: Record<string, string> = { engine: "the engine", shore: "shore", sun: "full sun", together: "all together" };

function Ribbon({ found }: { found: Days }) {
  const drawing = found.picture as Drawing;
  return (
    <figure className="overflow-x-auto border border-line bg-sheet p-2" tabIndex={0} role="region" aria-label="Day ribbon, scrolls sideways">
      <Shapes drawing={drawing} onOpen={() => undefined} />
      <figcaption className="text-sm text-soft">{drawing.note}</figcaption>
    </figure>
  );
}

function Figures({ found }: { found: Days }) {
  const { forecast } = found;
  const year = forecast.days > 14;
  return (
    <div className="grid gap-4 xl:grid-cols-[2fr_1fr]">
      <WideTable label="Fair and poor weather" heads={headsOf("Weather", "Lowest", "At the end", "Came in", "Engine", "Shore", "Sun", "Sun not used", "Lost in the bank", "Not served")}>
        {(forecast.courses ?? []).map((one) => (
          <tr key={one.name} className="border-t border-line">
            <th scope="row" className="h-11 px-1.5 text-left font-normal">
              {one.name} <span className="block text-xs text-soft">{one.label}</span>
            </th>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">
              {year ? percent(one.lowest_soc, 0) : <Figure workingKey={`days.${forecast.days}.${one.name}_lowest`} text={percent(one.lowest_soc, 0)} label={`${one.name}, lowest state of charge`} />}
              {one.empty_at_h !== null && <span className="block text-xs font-semibold text-stop">empty after {hoursLong(one.empty_at_h)}</span>}
            </td>
            <td className="px-1.5 text-right font-mono">{percent(one.end_soc, 0)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{wattHours(one.in_wh)}</td>
            <td className="px-1.5 text-right font-mono">{percent(one.engine_frac, 0)}</td>
            <td className="px-1.5 text-right font-mono">{percent(one.shore_frac, 0)}</td>
            <td className="px-1.5 text-right font-mono">{percent(one.sun_frac, 0)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{wattHours(one.unused_sun_wh)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{wattHours(one.lost_wh)}</td>
            <td className={`px-1.5 text-right font-mono whitespace-nowrap ${one.unserved_wh > 1 ? "font-semibold text-stop" : ""}`}>{wattHours(one.unserved_wh)}</td>
          </tr>
        ))}
      </WideTable>
      <WideTable label="Refill" heads={headsOf("From half to full by", "Takes")}>
        {(forecast.refills ?? []).map((one) => (
          <tr key={one.source} className="border-t border-line">
            <th scope="row" className="h-9 px-1.5 text-left font-normal">{SOURCE[one.source]}</th>
            <td className="px-1.5 text-right font-mono">
              <Figure workingKey={`days.7.refill_${one.source}`} text={hoursLong(one.hours)} label={`From half to full by ${SOURCE[one.source] ?? ""}`} />
            </td>
          </tr>
        ))}
      </WideTable>
    </div>
  );
}

export function DaysTab() {
  const { envelope } = usePlan();
  const cache = useQueryClient();
  const [span, setSpan] = useState<Span>("7");
  const { data, error, isFetching } = useQuery(daysQuery(envelope.plan_id, envelope.revision, Number(span)));
  const year = useYear(envelope.plan_id, envelope.revision);
  const shown = year.found ?? data;
  return (
    <div className="grid gap-4 lg:grid-cols-[minmax(0,1fr)_20rem]">
      <div className="min-w-0 space-y-4">
        <div className="flex flex-wrap items-center gap-2">
          <OneOf
            label="How long"
            value={year.found === null ? span : "year"}
            options={SPANS}
            disabled={year.done !== null}
            onChange={(next) => {
              if (next === "year") return year.start();
              year.clear();
              setSpan(next);
            }}
          />
          {year.done !== null && (
            <span className="flex items-center gap-2">
              <Progress label="The year is simulated" done_frac={year.done} />
              <Button onClick={year.cancel}>Cancel</Button>
            </span>
          )}
          <span className="grow text-sm text-soft">{isFetching ? "Running through the days" : shown?.forecast.note}</span>
          <FileButton
            text="Weather file"
            label="Hourly weather file, EPW or TMY3"
            accept=".epw,.csv,.tmy3"
            onFile={(file) =>
              void bringWeather(file).then(
                (name) => {
                  toast.success(`Weather ${name} is kept; choose it beside`);
                  void cache.invalidateQueries({ queryKey: weatherQuery.queryKey });
                },
                (refused: unknown) => toast.error("Not taken", { description: lines(refused).join("; ") }),
              )
            }
          />
        </div>
        {(error ?? year.problem) && <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error?.message ?? year.problem}</p>}
        {shown && shown.forecast.problem !== "" && <p className="border border-dashed border-line bg-sheet p-8 text-center">No days to show: {shown.forecast.problem}.</p>}
        {shown && shown.forecast.problem === "" && (
          <>
            <Ribbon found={shown} />
            {(shown.forecast.short_loads ?? []).length > 0 && (
              <p className="border-l-4 border-fix bg-fix-wash p-2 text-sm">
                More hours asked than the day gives them: {(shown.forecast.short_loads ?? []).join(", ")}.
              </p>
            )}
            <Figures found={shown} />
          </>
        )}
      </div>
      <aside aria-label="How it is lived in">
        <HabitsForm />
      </aside>
    </div>
  );
}
