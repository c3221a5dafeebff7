// Find anything by typing: a load, a run, a part, a step, something to do, a term of the trade.
import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import { fileUrl } from "../../api/client";
import { KIND } from "../../parts/kinds";
import { LABELS } from "../../parts/labels";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { WordBody } from "../../parts/Term";
import { Verdict, type Grade } from "../../parts/Verdict";

const PLACES: readonly (readonly [path: string, name: string])[] = [
  ["vehicle", "Vehicle, zones, states, practice"],
  ["loads", "Loads"],
  ["power", "Power: sources"],
  ["power/fit", "Power: does it fit"],
  ["power/days", "Power: days"],
  ["power/propose", "Power: propose a system"],
  ["power/options", "Power: options side by side"],
  ["power/prices", "Power: prices"],
  ["layout", "Layout: channels and places"],
  ["circuits", "Circuits: runs"],
  ["circuits/map", "Circuits: map"],
  ["circuits/states", "Circuits: state board"],
  ["circuits/shorts", "Circuits: short circuits"],
  ["circuits/parts", "Circuits: parts"],
  ["checks", "Checks"],
  ["build", "Build: papers, tables, drawings"],
  ["prove", "Prove: proving list"],
  ["prove/fault", "Prove: find a fault"],
  ["log", "Log: the vehicle"],
  ["log/revisions", "Log: revisions"],
  ["/bench", "Bench"],
  ["/school", "School"],
  ["/words", "Words: the glossary"],
];

function Row({ value, words, onPick, children }: { value: string; words: string[]; onPick: () => void; children: ReactNode }) {
  return (
    <Command.Item value={value} keywords={words} onSelect={onPick} className="flex min-h-11 cursor-pointer items-center gap-2 px-3 data-[selected=true]:bg-copper-wash">
      {children}
    </Command.Item>
  );
}

// Every word typed must stand in the name; what begins with it comes first.
function matches(_value: string, typed: string, words: string[] = []): number {
  const name = words.join(" ").toLowerCase();
  const parts = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (!parts.every((part) => name.includes(part))) return 0;
  return parts.some((part) => words.some((word) => word.toLowerCase().startsWith(part))) ? 1 : 0.5;
}

const GROUP = "[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:font-semibold [&_[cmdk-group-heading]]:text-soft";

export function Palette(props: { open: boolean; onClose: () => void; onState: (id: string | null) => void; onTheme: () => void }) {
  const { envelope, goTo, undo, redo, edit } = usePlan();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const [term, setTerm] = useState<readonly [string, string] | null>(null);
  const { plan, report } = envelope;
  const colour = plan.wire_colours?.positive ?? "red";
  const close = () => {
    setText("");
    setTerm(null);
    props.onClose();
  };
  const then = (act: () => void) => () => {
    close();
    act();
  };
  const verdicts = new Map([...report.loads, ...report.parts].map((one) => [one.id, one.verdict]));
  const print = (name: string) => window.open(fileUrl(envelope.plan_id, name), "_blank");
  const actions: [string, () => void][] = [
    ["Undo", undo],
    ["Redo", redo],
    ["Add a load", () => void edit([{ op: "add_loads", rows: [{ name: "New load" }], confirmed: false } as never]).then(() => navigate("loads"))],
    ["Figures for the worst of all states", () => props.onState(null)],
    ...report.summary.states.map((state): [string, () => void] => [`Figures for the state ${state.name}`, () => props.onState(state.state_id)]),
    ["Day, night or glare look", props.onTheme],
    ["Print the run sheet", () => print("run-sheet.pdf")],
    ["Print the fuse map", () => print("fuse-map.pdf")],
    ["Print why each size", () => print("reasons.pdf")],
  ];
  return (
    <Dialog.Root open={props.open} onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content aria-describedby={undefined} className="fixed top-[10dvh] left-1/2 z-50 w-[calc(100vw-2rem)] max-w-xl -translate-x-1/2 border-t-4 border-copper bg-sheet shadow-xl">
          <Dialog.Title className="sr-only">Find</Dialog.Title>
          <Command label="Find" filter={matches}>
            <Command.Input autoFocus value={text} onValueChange={setText} className="field min-h-12 border-0 border-b text-lg" placeholder="A tag, a name, a term, something to do" />
            {term !== null && (
              <div role="status" className="border-b border-line bg-copper-wash p-3">
                <WordBody name={term[0]} />
              </div>
            )}
            <Command.List label="Found" className="max-h-[60dvh] overflow-y-auto">
              <Command.Empty className="p-4 text-soft">Nothing of that name in this job.</Command.Empty>
              <Command.Group heading="Runs" className={GROUP}>
                {report.runs.map((run) => (
                  <Row key={run.id} value={`run ${run.id}`} words={[run.tag, run.name, run.finish_label, run.start_label, run.wire.label]} onPick={then(() => goTo(run.id))}>
                    <Sleeve tag={run.tag} colour={colour} />
                    <span className="grow truncate">{run.name || run.finish_label}</span>
                    <span className="text-sm whitespace-nowrap text-soft">{run.wire.label}</span>
                    <Verdict grade={run.verdict as Grade} word={false} />
                  </Row>
                ))}
              </Command.Group>
              <Command.Group heading="Loads and parts" className={GROUP}>
                {(plan.parts ?? []).map((part) => (
                  <Row key={part.id} value={`part ${part.id}`} words={[part.tag ?? "", part.name, KIND[part.kind] ?? ""]} onPick={then(() => goTo(part.id))}>
                    <span className="w-10 font-mono text-sm text-soft">{part.tag}</span>
                    <span className="grow truncate">{part.name}</span>
                    <span className="text-sm text-soft">{KIND[part.kind]}</span>
                    <Verdict grade={(verdicts.get(part.id) ?? "good") as Grade} word={false} />
                  </Row>
                ))}
              </Command.Group>
              <Command.Group heading="Go to" className={GROUP}>
                {PLACES.map(([path, name]) => (
                  <Row key={path} value={`go ${path}`} words={[name]} onPick={then(() => void navigate(path))}>
                    {name}
                  </Row>
                ))}
              </Command.Group>
              <Command.Group heading="Do" className={GROUP}>
                {actions.map(([name, act]) => (
                  <Row key={name} value={`do ${name}`} words={[name]} onPick={then(act)}>
                    {name}
                  </Row>
                ))}
              </Command.Group>
              {text !== "" && (
                <Command.Group heading="Terms" className={GROUP}>
                  {Object.entries(LABELS.terms).map((one) => (
                    <Row key={one[0]} value={`term ${one[0]}`} words={[one[0]]} onPick={() => setTerm(one)}>
                      <span className="font-semibold">{one[0]}</span>
                      <span className="truncate text-sm text-soft">{one[1]}</span>
                    </Row>
                  ))}
                </Command.Group>
              )}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
