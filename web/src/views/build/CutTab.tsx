// Every piece of wire to cut: how long, and what goes on at either end. Sorted the way it is worked.
import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { cuttingQuery } from "../../api/plans";
import { length, millimetres } from "../../parts/format";
import { Checkbox } from "../../parts/Checkbox";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { useNarrow } from "../../parts/useNarrow";
import { headsOf, WideTable } from "../../parts/WideTable";
import { useCutTicks } from "./cutTicks";
import { SincePrinted } from "./SincePrinted";

type Piece = Schemas["CutPiece"];
type End = Schemas["PieceEnd"];

const ORDERS = [
  ["tag", "by tag"],
  ["size", "by size, longest first"],
  ["place", "by the place they begin at"],
  ["block", "by the part they begin at"],
  ["channel", "by the channel they lie in"],
] as const;

const falling = (a: number, b: number) => (a > b ? -1 : a < b ? 1 : 0);

const BY: Record<string, (a: Piece, b: Piece) => number> = {
  tag: () => 0,
  size: (a, b) => falling(a.area_mm2, b.area_mm2) || a.colour.localeCompare(b.colour) || falling(a.cut_m, b.cut_m),
  place: (a, b) => a.start.place.localeCompare(b.start.place),
  block: (a, b) => a.start.part.localeCompare(b.start.part),
  channel: (a, b) => (a.channels[0] ?? "~").localeCompare(b.channels[0] ?? "~"),
};

function EndText({ end }: { end: End }) {
  return (
    <>
      <b className="font-semibold">{end.fits}</b>
      <span className="block text-sm">
        {[end.part, end.at].filter((one) => one !== "").join(", ")}
        {end.place !== "" && <span className="text-soft"> · {end.place}</span>}
      </span>
      <span className="block text-sm text-soft">
        {end.strip_mm > 0 ? `strip ${millimetres(end.strip_mm)}` : "not stripped"}
        {end.shrink_before_mm !== null && ` · tube ${end.shrink_before_mm} mm, ${millimetres(end.shrink_length_mm)} long`}
        {end.pull_n !== null && ` · holds ${end.pull_n} N`}
      </span>
    </>
  );
}

export function CutTab() {
  const { envelope, goTo } = usePlan();
  const units = envelope.plan.units ?? "metric";
  const [search, setSearch] = useSearchParams();
  const narrow = useNarrow();
  const tickOf = useCutTicks();
  const { data, error } = useQuery(cuttingQuery(envelope.plan_id, envelope.revision));
  if (error) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data) return <p className="text-soft">Cutting</p>;
  const { cut } = data;
  if (cut.pieces.length === 0) return <p className="border border-line bg-sheet p-3">No run yet, so nothing to cut. Runs come with loads and circuits.</p>;
  const order = search.get("order") ?? "tag";
  const pieces = [...cut.pieces].sort(BY[order] ?? BY.tag);
  const put = (value: string) => {
    setSearch((before) => {
      const next = new URLSearchParams(before);
      next.set("order", value);
      return next;
    });
    return true;
  };
  const title = (one: Piece) => (
    <button type="button" className="flex min-h-9 flex-wrap items-center gap-1" aria-label={`Open ${one.tag}${one.leg}`} onClick={() => goTo(one.run)}>
      <Sleeve tag={one.tag} colour={one.colour} />
      <span className="font-mono">{one.leg}</span>
      {one.which !== "" && <span className="text-sm text-soft">{one.which}</span>}
    </button>
  );
  const tick = (one: Piece) => {
    const state = tickOf(one.id);
    return (
      <>
        <label className="flex min-h-11 min-w-11 items-center justify-center">
          <Checkbox
            label={`Cut: ${one.tag}${one.leg} ${one.which}`}
            checked={state !== null && state.done !== state.pending}
            disabled={state === null || state.pending || one.guessed}
            onChange={() => state?.flip()}
          />
        </label>
        {state?.otherwise === true && <span className="text-sm text-fix">cut otherwise</span>}
      </>
    );
  };
  const cutText = (one: Piece) => (one.guessed ? <span className="text-fix">measure first (~{length(one.cut_m, units)})</span> : length(one.cut_m, units));
  return (
    <div className="space-y-3">
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-64">
          <Choice label="In order" value={order} options={ORDERS} onChange={put} />
        </div>
        <p className="pb-2 text-soft">
          {cut.pieces.length} pieces. The way with both ends stripped, and one crimp more at each, to the next centimetre.
        </p>
      </div>
      <SincePrinted />
      {cut.guessed.length > 0 && (
        <p className="border-l-4 border-copper bg-copper-wash p-2">
          Nobody has measured {cut.guessed.join(", ")}: do not cut {cut.guessed.length === 1 ? "it" : "them"} yet.
        </p>
      )}
      {narrow ? (
        <ul className="space-y-2" aria-label="Pieces">
          {pieces.map((one) => (
            <li key={one.id} className="border border-line bg-sheet p-3">
              <div className="flex items-center justify-between gap-2">
                {tick(one)}
                {title(one)}
                <span className="text-right font-mono text-lg">{cutText(one)}</span>
              </div>
              <p className="text-sm text-soft">
                {one.size}, {one.colour}
              </p>
              <div className="mt-2 grid grid-cols-2 gap-3">
                <div>
                  <EndText end={one.start} />
                </div>
                <div>
                  <EndText end={one.finish} />
                </div>
              </div>
            </li>
          ))}
        </ul>
      ) : (
        <WideTable label="Pieces to cut" heads={headsOf("Done", "Piece", "Wire", "Cut off", "End A", "End B")}>
          {pieces.map((one) => (
            <tr key={one.id} className="border-t border-line align-top">
              <td className="px-1">{tick(one)}</td>
              <td className="px-2 py-1.5">{title(one)}</td>
              <td className="px-2 py-1.5 whitespace-nowrap">
                {one.size}
                <span className="block text-sm text-soft">{one.colour}</span>
              </td>
              <td className="px-2 py-1.5 font-mono whitespace-nowrap">{cutText(one)}</td>
              <td className="px-2 py-1.5">
                <EndText end={one.start} />
              </td>
              <td className="px-2 py-1.5">
                <EndText end={one.finish} />
              </td>
            </tr>
          ))}
        </WideTable>
      )}
      <section aria-labelledby="ends-title">
        <h3 id="ends-title" className="mb-1 text-lg font-bold">
          On the ends
        </h3>
        <ul className="grid gap-x-6 sm:grid-cols-2 lg:grid-cols-3">
          {cut.ends.map((one) => (
            <li key={one.what} className="flex justify-between gap-3 border-b border-line py-1">
              <span>{one.what}</span>
              <span className="font-mono">{one.count > 0 ? one.count : millimetres(one.length_mm)}</span>
            </li>
          ))}
        </ul>
        <p className="mt-1 text-sm text-soft">Usual studs and terminals; what is stamped on the part and the maker's sheet win. Buy a few more of each than are counted.</p>
      </section>
    </div>
  );
}
