import { Ellipsis } from "lucide-react";
import { useNavigate } from "react-router";
import type { Column, Load, LoadReport, Schemas } from "../../api/client";
import { amps, chargeADay, length, percent, short, typed } from "../../parts/format";
import { Figure } from "../../parts/Figure";
import { loadFigures, usePlan } from "../../parts/plan";
import { Menu } from "../../parts/Menu";
import type { Options } from "../../parts/Select";
import { Sleeve } from "../../parts/Sleeve";
import { Verdict } from "../../parts/Verdict";
import { NAMES_ID } from "./CatalogueBar";
import { Cell } from "./Cell";
import { Feed, Pick, Tick } from "./Choosers";

const SYSTEM: Record<string, string> = { awg: "AWG", bs: "B&S", mm2: "mm²", sae: "SAE", auto_mm: "auto" };

function sizeText(size: Schemas["SizeRef"] | null | undefined): string {
  return size ? `${size.size} ${SYSTEM[size.system] ?? ""}` : "";
}

const BEHAVIOURS: Options = [
  ["constant_power", "constant power", "electronics, pumps, fridges"],
  ["constant_current", "constant current", "LED drivers"],
  ["resistive", "resistive", "heaters and bulbs"],
];

export function LoadRow(props: {
  row: number;
  load: Load;
  report: LoadReport;
  marked: boolean;
  places: Options;
  feeds: Options;
  onBlock: (text: string, row: number, column: Column) => void;
}) {
  const { load, report, row } = props;
  const { envelope, edit, stateId } = usePlan();
  const navigate = useNavigate();
  const { plan } = envelope;
  const units = plan.units ?? "metric";
  const now = loadFigures(report, stateId);
  const cell = (column: Column, value: string, label: string, extra: { right?: boolean; faint?: boolean; placeholder?: string; list?: string } = {}) => (
    <Cell part={load.id} row={row} column={column} label={`${label}, ${load.name}`} value={value} {...extra} onBlock={props.onBlock} />
  );
  const select = (column: Column, value: string, label: string, options: Options) => (
    <Pick part={load.id} row={row} column={column} label={`${label}, ${load.name}`} value={value} options={options} />
  );
  const flag = (column: "sensitive" | "keyed", label: string) => (
    <Tick part={load.id} row={row} column={column} label={`${label}, ${load.name}`} checked={load[column] ?? false} />
  );
  const run = plan.runs?.find((one) => one.id === report.circuit);
  const asTyped = run?.length_as_typed ?? null;
  const isLoop = asTyped?.endsWith("loop") ?? false;
  const guessed = run?.length_guessed ?? false;
  const about = guessed ? "~" : "";
  const oneWay = report.length_m === null ? "" : asTyped !== null && !isLoop ? asTyped : about + length(report.length_m, units);
  const bothWays = report.loop_length_m === null ? "" : isLoop && asTyped !== null ? asTyped.replace(" loop", "") : about + length(report.loop_length_m, units);
  const place = plan.places?.find((one) => one.id === load.place);
  return (
    <tr
      id={`load-${load.id}`}
      className={`border-t border-line ${props.marked ? "bg-copper-wash" : ""}`}
      onKeyDown={(event) => {
        if (!event.altKey) return;
        const by = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
        if (by !== 0) void edit([{ op: "move_load", part: load.id, by }]);
        else if (event.key === "Backspace") void edit([{ op: "delete_part", part: load.id }]);
        else if (event.key.toLowerCase() === "c") void edit([{ op: "duplicate_load", part: load.id }]);
        else return;
        event.preventDefault();
      }}
    >
      <th scope="row" className="sticky left-0 z-10 w-[5.5rem] min-w-[5.5rem] bg-sheet px-1.5 text-left font-normal">
        <span className="flex items-center gap-1">
          <Sleeve tag={load.tag} colour={plan.wire_colours?.positive ?? "red"} />
          {report.verdict !== "good" && <Verdict grade={report.verdict} word={false} />}
        </span>
      </th>
      <td className="sticky left-[5.5rem] z-10 min-w-40 border-r border-line bg-sheet">{cell("name", load.name, "Name", { list: NAMES_ID })}</td>
      <td className="min-w-19">{cell("power_w", load.power_w ? typed(load.power_w) : short(report.each_power_w), "Watts each", { right: true, faint: load.power_w === null || load.power_w === undefined, placeholder: "W" })}</td>
      <td className="min-w-19">{cell("current_a", load.current_a ? typed(load.current_a) : short(report.each_current_a), "Amps each", { right: true, faint: load.current_a === null || load.current_a === undefined, placeholder: "A" })}</td>
      <td className="min-w-38">
        {select("behaviour", load.behaviour ?? "constant_power", "Behaviour", BEHAVIOURS)}
      </td>
      <td className="min-w-12">{cell("count", String(load.count ?? 1), "Count", { right: true })}</td>
      <td className="min-w-14">{cell("hours_per_day", typed(load.hours_per_day), "Hours a day", { right: true, placeholder: "h" })}</td>
      <td className="text-right">
        <Figure workingKey={`${load.id}.ah_per_day`} text={chargeADay(report.ah_per_day)} label={`Charge a day of ${load.name}`} plain={report.ah_per_day === null} />
      </td>
      <td className="min-w-22">{cell("length", oneWay, "One way", { right: true, faint: isLoop || guessed, placeholder: "no run" })}</td>
      <td className="min-w-22">{cell("loop_length", bothWays, "There and back", { right: true, faint: !isLoop, placeholder: "no run" })}</td>
      <td className="text-right">
        <Figure workingKey={`${load.id}.conductor_drop_frac`} text={now.on && report.circuit !== null ? percent(now.conductor_drop_frac) : "off"} label={`Drop in the conductors at ${load.name}`} plain={!now.on || report.circuit === null} />
        {now.on && report.circuit !== null && (
          <Figure workingKey={`${load.id}.drop_frac`} text={`in all ${percent(now.drop_frac)}`} label={`Drop in all at ${load.name}`} small />
        )}
      </td>
      <td className="min-w-40">
        <Feed part={load.id} label={`Fed from, ${load.name}`} value={report.fed_from ?? ""} options={props.feeds} />
      </td>
      <td className="min-w-40">
        {select("place", place?.name ?? "", "Place", props.places)}
      </td>
      <td>{flag("sensitive", "Sensitive")}</td>
      <td>{flag("keyed", "Keyed")}</td>
      <td className="min-w-22">{cell("maker_least", sizeText(load.maker?.least), "Maker's min wire", { placeholder: "any" })}</td>
      <td className="min-w-22">{cell("maker_greatest", sizeText(load.maker?.greatest), "Maker's max wire", { placeholder: "any" })}</td>
      <td className="min-w-14">{cell("maker_fuse_a", typed(load.maker?.fuse_a), "Maker's fuse", { right: true, placeholder: "any" })}</td>
      <td className="text-right">
        <Figure workingKey={`${load.id}.design_current_a`} text={amps(report.design_current_a)} label={`Design current of ${load.name}`} plain={report.power_w === null} />
      </td>
      <td className="whitespace-nowrap">
        <Menu
          label={`What to do with ${load.name}`}
          icon={<Ellipsis size={18} />}
          items={[
            { text: "Duplicate", keys: "Alt+C", onPick: () => void edit([{ op: "duplicate_load", part: load.id }]) },
            { text: "Move up", keys: "Alt+↑", disabled: row === 0, onPick: () => void edit([{ op: "move_load", part: load.id, by: -1 }]) },
            { text: "Move down", keys: "Alt+↓", onPick: () => void edit([{ op: "move_load", part: load.id, by: 1 }]) },
            { text: "Open its sheet", onPick: () => void navigate(`../circuits/parts?part=${load.id}`) },
            { text: "Delete", keys: "Alt+Backspace", onPick: () => void edit([{ op: "delete_part", part: load.id }]) },
          ]}
        />
      </td>
    </tr>
  );
}
