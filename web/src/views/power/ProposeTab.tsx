// A whole system from the load list and a few wishes: every step with its reason, to be taken whole, in part, or not.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, type Drawing, type Schemas } from "../../api/client";
import { planQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { kilograms } from "../../parts/format";
import { Check, Choice } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";
import { Shapes } from "../../parts/Picture";
import { usePlan } from "../../parts/plan";
import { Verdict } from "../../parts/Verdict";
import { lines, type Wishes } from "./queries";

type Proposal = Schemas["ProposedSystem"];

const FIRST: Wishes = { days: 2, drive_hours: 1.5, leaning: "middle", nominal_v: 12, chemistry: "lfp", sun: true, shore: true, starter_length_m: 5, roof_m2: 4, roof_length_m: 4 };
const LEANINGS = [
  ["lean", "lean: no more than the sums ask"],
  ["middle", "middle"],
  ["generous", "generous"],
] as const;
const CHEMISTRIES = [
  ["lfp", "lithium (LFP)"],
  ["agm", "AGM lead"],
  ["flooded", "flooded lead"],
] as const;
const OUTCOME: Record<string, string> = { nothing: "nothing to do", cannot: "cannot be done here", left: "left out", done: "" };
const FOOT = 0.3048;
const SQUARE_FOOT = FOOT * FOOT;
const VOLTS = [
  ["12", "12 V"],
  ["24", "24 V"],
] as const;

// The system drawn as it is and as it would be, one at a time at the same size.
function BeforeAfter({ before, after }: { before: Drawing | null; after: Drawing }) {
  const [side, setSide] = useState<"before" | "after">("after");
  const drawing = side === "before" && before !== null ? before : after;
  return (
    <figure className="space-y-2">
      <Choice
        label="Map"
        value={side}
        options={[
          ["after", "as proposed"],
          ["before", "as it is"],
        ]}
        onChange={(value) => {
          setSide(value as "before" | "after");
          return true;
        }}
      />
      <div className="overflow-auto border border-line bg-sheet" tabIndex={0} role="region" aria-label={`${drawing.title}, ${side === "after" ? "as proposed" : "as it is"}`}>
        <Shapes drawing={drawing} onOpen={() => undefined} />
      </div>
    </figure>
  );
}

export function ProposeTab() {
  const { envelope } = usePlan();
  const cache = useQueryClient();
  const own = envelope.plan.energy?.days;
  const [wishes, setWishes] = useState<Wishes>({ ...FIRST, days: own ?? FIRST.days });
  const [left, setLeft] = useState<string[]>([]);
  const [made, setMade] = useState<{ revision: number; proposal: Proposal; all: string[] } | null>(null);
  const path = { plan_id: envelope.plan_id };
  const ask = useMutation({
    mutationFn: (out: string[]) => {
      const steps = made === null || out.length === 0 ? null : made.all.filter((one) => !out.includes(one));
      return answered(client.POST("/api/plans/{plan_id}/propose", { params: { path }, body: { wishes, steps } }));
    },
    onSuccess: (proposal) => setMade({ revision: envelope.revision, proposal, all: proposal.steps.map((one) => one.id) }),
  });
  const take = useMutation({
    mutationFn: () =>
      answered(
        client.POST("/api/plans/{plan_id}/propose/take", {
          params: { path, header: { "If-Match": `"${envelope.revision}"` } },
          body: { wishes, steps: (made?.all ?? []).filter((one) => !left.includes(one)) },
        }),
      ),
    onSuccess: (next) => {
      cache.setQueryData(planQuery(envelope.plan_id).queryKey, next);
      setMade(null);
      setLeft([]);
      toast.success("Taken as a new revision; undo takes it back");
    },
  });
  const set = <K extends keyof Wishes>(name: K, value: unknown) => {
    setWishes((before) => ({ ...before, [name]: value as Wishes[K] }));
    setMade(null);
    return true;
  };
  const number = (name: keyof Wishes, label: string) => <NumberField label={label} value={wishes[name] as number} onCommit={(value) => value !== null && set(name, value)} />;
  // Lengths and areas in the units of the plan.
  const feet = envelope.plan.units === "us";
  const inUnits = (name: keyof Wishes, label: string, per: number) => (
    <NumberField label={label} value={Number(((wishes[name] as number) / per).toPrecision(3))} onCommit={(value) => typeof value === "number" && set(name, value * per)} />
  );
  const shown = made !== null && made.revision === envelope.revision ? made.proposal : null;
  const error = ask.error ?? take.error;
  return (
    <div className="grid gap-4 lg:grid-cols-[18rem_minmax(0,1fr)]">
      <form
        className="space-y-3"
        aria-label="Wishes"
        onSubmit={(event) => {
          event.preventDefault();
          setLeft([]);
          setMade(null);
          ask.mutate([]);
        }}
      >
        {number("days", "To last without charge, days")}
        {number("drive_hours", "Driving a day, hours")}
        <Choice label="Leaning" value={wishes.leaning} options={LEANINGS} onChange={(value) => set("leaning", value)} />
        <Choice label="Nominal voltage" value={String(wishes.nominal_v)} options={VOLTS} onChange={(value) => set("nominal_v", Number(value))} />
        <Choice label="Chemistry" value={wishes.chemistry} options={CHEMISTRIES} onChange={(value) => set("chemistry", value)} />
        <Check label="panels on the roof" checked={wishes.sun} onChange={(on) => set("sun", on)} />
        <Check label="a mains charger (shore power)" checked={wishes.shore} onChange={(on) => set("shore", on)} />
        {wishes.sun && inUnits("roof_m2", feet ? "Free roof, sq ft" : "Free roof, m²", feet ? SQUARE_FOOT : 1)}
        {inUnits("starter_length_m", `From the starter battery, ${feet ? "ft" : "m"} one way`, feet ? FOOT : 1)}
        {wishes.sun && inUnits("roof_length_m", `From the roof, ${feet ? "ft" : "m"} one way`, feet ? FOOT : 1)}
        <Button type="submit" look="main" disabled={ask.isPending}>
          {ask.isPending ? "Working it out" : "Propose a system"}
        </Button>
      </form>
      <div className="min-w-0 space-y-3">
        {error && (
          <ul role="alert" className="border-l-4 border-stop bg-stop-wash p-2">
            {lines(error).map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        )}
        {shown === null && !ask.isPending && (
          <p className="border border-dashed border-line bg-sheet p-8 text-center">
            From the load list, the vehicle and the wishes beside, a whole system: bank, inverter, bars, blocks, charging, ground, wire and fuses. Nothing changes until you take it.
          </p>
        )}
        {shown !== null && shown.problem !== "" && <p className="border-l-4 border-fix bg-fix-wash p-2">{shown.problem}</p>}
        {shown !== null && shown.preview && (
          <>
            <ol className="border border-line bg-sheet">
              {shown.steps.map((step) => (
                <li key={step.id} className={`border-t border-line px-3 first:border-t-0 ${step.outcome === "nothing" ? "" : "py-2"}`}>
                  <div className="flex flex-wrap items-center justify-between gap-2">
                    <Check
                      label={step.title}
                      checked={!left.includes(step.id)}
                      onChange={(on) => {
                        const out = on ? left.filter((one) => one !== step.id) : [...left, step.id];
                        setLeft(out);
                        ask.mutate(out);
                        return true;
                      }}
                    />
                    <span className="text-sm text-soft" title={step.outcome === "nothing" ? step.reason : undefined}>
                      {OUTCOME[step.outcome]}
                    </span>
                  </div>
                  {step.outcome !== "nothing" && <p className={`text-sm ${step.changes_plan ? "" : "text-soft"}`}>{step.reason}</p>}
                  {step.changes.length > 0 && (
                    <Fold title={`Included · ${step.changes.length} changes`}>
                      <ul className="list-disc pl-5 text-sm">
                        {step.changes.map((line) => (
                          <li key={line}>{line}</li>
                        ))}
                      </ul>
                    </Fold>
                  )}
                </li>
              ))}
            </ol>
            <p>
              Stops {shown.preview.before_stop} → {shown.preview.after_stop}, fixes {shown.preview.before_fix} → {shown.preview.after_fix}, copper {kilograms(shown.preview.before_copper_kg)} →{" "}
              {kilograms(shown.preview.after_copper_kg)}.
            </p>
            {shown.preview.new.length > 0 && (
              <ul className="text-sm">
                {shown.preview.new.map((one) => (
                  <li key={one.id} className="border-t border-line py-1">
                    <Verdict grade={one.severity} /> {one.tag} {one.what}
                  </li>
                ))}
              </ul>
            )}
            {shown.map_after && <BeforeAfter before={(shown.map_before ?? null) as Drawing | null} after={shown.map_after as Drawing} />}
            <div className="flex flex-wrap gap-2">
              <Button look="main" disabled={take.isPending || ask.isPending || !shown.steps.some((one) => one.changes_plan)} onClick={() => take.mutate()}>
                {take.isPending ? "Applying" : left.length === 0 ? "Apply" : "Apply what is ticked"}
              </Button>
              <Button onClick={() => setMade(null)}>Discard</Button>
            </div>
            <p className="text-sm text-soft">A proposal is a plan to be checked by a competent person, not an approval. Lengths shown with ~ are guessed: measure them.</p>
          </>
        )}
      </div>
    </div>
  );
}
