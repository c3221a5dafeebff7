// The load list: a grid to type in. What it answers at a glance: what draws most in a day, and what is missing.
import { FileUp, Plus } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { toast } from "sonner";
import type { Column, Load } from "../../api/client";
import { Button } from "../../parts/Button";
import { amps, chargeADay } from "../../parts/format";
import { LABELS } from "../../parts/labels";
import { usePlan } from "../../parts/plan";
import type { Options } from "../../parts/Select";
import { useNarrow } from "../../parts/useNarrow";
import { blockEdits, focusCell } from "./grid";
import { LoadCard } from "./LoadCard";
import { LoadRow } from "./LoadRow";
import { CatalogueBar, CatalogueFiles, ConsumerNames } from "./CatalogueBar";
import { LoadsImport } from "./LoadsImport";

const NAMES = LABELS.quantities;
const HEADS = [
  NAMES.tag, "Name", NAMES.power_w, NAMES.current_a, NAMES.behaviour, NAMES.count, NAMES.hours_per_day, NAMES.ah_per_day, NAMES.length,
  NAMES.loop_length, NAMES.drop_frac, NAMES.fed_from, NAMES.place, NAMES.sensitive, NAMES.keyed, NAMES.maker_least, NAMES.maker_greatest,
  NAMES.maker_fuse_a, NAMES.design_current_a, "",
];

// Tag and name stay in sight while the rest scrolls sideways.
const FIXED = ["sticky left-0 z-10 bg-zinc", "sticky left-[5.5rem] z-10 border-r border-line bg-zinc"];

export function LoadsView() {
  const { envelope, edit } = usePlan();
  const [search] = useSearchParams();
  const [file, setFile] = useState<File | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const wantFocus = useRef(false);
  const loads = (envelope.plan.parts ?? []).filter((part): part is Load => part.kind === "load");
  const marked = search.get("load");
  const narrow = useNarrow();
  const most = [...envelope.report.loads].sort((a, b) => Number(b.ah_per_day) - Number(a.ah_per_day))[0];
  const missing = envelope.report.findings.filter((one) => one.waived === null && one.code.startsWith("load-no-"));

  useEffect(() => {
    if (marked !== null) document.getElementById(`load-${marked}`)?.scrollIntoView({ block: "center" });
  }, [marked]);
  useEffect(() => {
    if (wantFocus.current) {
      wantFocus.current = false;
      focusCell(loads.length - 1, "name");
    }
  }, [loads.length]);

  const held = useRef(loads);
  useEffect(() => {
    held.current = loads;
  });
  const paste = useCallback(
    (text: string, row: number, column: Column) => {
      const edits = blockEdits(text, row, column, held.current);
      void edit(edits).then((done) => done && toast.success("Block pasted; undo takes it back"));
    },
    [edit],
  );
  // The lists every row offers; as text, so that they stay the same object while no name changes.
  const placeNames = JSON.stringify([["", "no place"], ...(envelope.plan.places ?? []).map((one) => [one.name, one.name])]);
  const places = useMemo(() => JSON.parse(placeNames) as Options, [placeNames]);
  const kinds = ["fuse_block", "busbar", "joint", "switch", "relay", "keyed_feed", "load", "battery"];
  const feedNames = JSON.stringify(
    (envelope.plan.parts ?? [])
      .filter((part) => kinds.includes(part.kind))
      .sort((a, b) => kinds.indexOf(a.kind) - kinds.indexOf(b.kind))
      .map((part) => [part.id, part.kind === "load" ? `after ${part.name}` : part.name]),
  );
  const feeds = useMemo(() => JSON.parse(feedNames) as Options, [feedNames]);
  const add = () => {
    wantFocus.current = true;
    void edit([{ op: "add_loads", rows: [{ name: "New load" } as Record<Column, string>], confirmed: false }]);
  };
  return (
    <section aria-labelledby="loads-title">
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2 id="loads-title" className="text-xl font-bold">
          Loads
        </h2>
        <p className="grow text-soft">
          {most?.ah_per_day ? `${most.name} draws most: ${chargeADay(most.ah_per_day)} a day.` : "Nothing draws yet."}{" "}
          {missing.length > 0 ? `Missing figures: ${missing.length}.` : "No figure is missing."}
        </p>
        <Button onClick={() => chooser.current?.click()}>
          <FileUp size={18} /> Bring in CSV
        </Button>
        <input
          ref={chooser}
          type="file"
          accept=".csv,text/csv,text/plain"
          className="sr-only"
          aria-label="CSV file of loads"
          tabIndex={-1}
          onChange={(event) => {
            setFile(event.target.files?.[0] ?? null);
            event.target.value = "";
          }}
        />
        <Button look="main" onClick={add}>
          <Plus size={18} /> Add a load
        </Button>
      </div>
      <CatalogueBar loads={loads} />
      {loads.length === 0 ? (
        <div className="border border-dashed border-line bg-sheet p-8 text-center">
          <p className="font-semibold">No loads yet</p>
          <p className="mt-1 text-soft">Add the first one, paste rows from a spreadsheet into it, or bring in a CSV file.</p>
        </div>
      ) : narrow ? (
        <ul className="space-y-2" aria-label="Loads">
          {loads.map((load) => {
            const report = envelope.report.loads.find((one) => one.id === load.id);
            return report && <LoadCard key={load.id} load={load} report={report} places={places} feeds={feeds} />;
          })}
        </ul>
      ) : (
        <div className="relative overflow-x-auto border border-line bg-sheet" tabIndex={0} role="region" aria-label="Load list, scrolls sideways">
          <table className="w-full border-collapse">
            <thead className="bg-zinc">
              <tr>
                {HEADS.map((name, index) => (
                  <th key={index} scope="col" className={`head ${FIXED[index] ?? ""}`}>
                    {name}
                    {index === HEADS.length - 1 && <span className="sr-only">Row tools</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {loads.map((load, row) => {
                const report = envelope.report.loads.find((one) => one.id === load.id);
                return report && <LoadRow key={load.id} row={row} load={load} report={report} marked={load.id === marked} places={places} feeds={feeds} onBlock={paste} />;
              })}
            </tbody>
            <tfoot className="border-t-2 border-ink font-bold">
              <tr>
                <th scope="row" colSpan={2} className="px-2 py-2 text-left">
                  All together
                </th>
                <td colSpan={2} className="px-1.5 text-right whitespace-nowrap">
                  {amps(envelope.report.summary.load_current_a)}
                </td>
                <td colSpan={4} className="px-1.5 text-right whitespace-nowrap">
                  {chargeADay(envelope.report.summary.ah_per_day)}
                </td>
                <td colSpan={12} />
              </tr>
            </tfoot>
          </table>
        </div>
      )}
      <p className="mt-2 text-sm text-soft max-sm:hidden">
        Enter goes down, arrows move, Alt+↑↓ moves the row, Alt+C copies it, Alt+Backspace deletes it. Type watts or amps, one
        way or there and back: the grey one is computed.
      </p>
      <ConsumerNames />
      <CatalogueFiles />
      {file !== null && <LoadsImport file={file} onClose={() => setFile(null)} />}
    </section>
  );
}
