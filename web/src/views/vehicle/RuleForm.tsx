// Changes one rule for this plan, with the reason, or lets it go back to the set.
import { useState } from "react";
import type { PatchOperation, Schemas } from "../../api/client";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import type { Options } from "../../parts/Select";
import { lengthUnit, metresOf, plainPercent, typed, typedLength, type Units } from "../../parts/format";

type Rule = Schemas["RuleOrigin"];

const YES_NO = [
  ["true", "yes"],
  ["false", "no"],
] as const;
const LISTS = new Set(["shelf", "branch_families", "main_families", "fuse_stock"]);

// Rules that are lengths are typed in the units of the plan: those of a fuse's wire are short.
const isLength = (rule: string) => rule.endsWith("_m");
const isShort = (rule: string) => rule !== "size_worth_m" && rule !== "cable_worth_m" && rule !== "end_worth_m" && rule !== "step_worth_m";

function asText(value: unknown, rule: string, units: Units): string {
  if (Array.isArray(value)) return value.join(", ");
  if (typeof value === "number" && isLength(rule)) return typed(typedLength(value, units, isShort(rule)));
  if (typeof value === "number" && rule.endsWith("_frac")) return plainPercent(value);
  return String(value ?? "");
}

function asValue(text: string, rule: string, units: Units): unknown {
  if (LISTS.has(rule)) return text.split(/[,;]\s*|\s{2,}/).map((one) => one.trim()).filter(Boolean);
  if (rule === "tinned") return text === "true";
  const number = Number(text.trim().replace(",", "."));
  if (text.trim() === "" || Number.isNaN(number)) return text;
  if (isLength(rule)) return metresOf(number, units, isShort(rule));
  // A share is typed in percent, as it is read.
  return rule.endsWith("_frac") ? Number(`${text.trim().replace(",", ".")}e-2`) : number;
}

export function RuleForm({ origin, practice, onClose }: { origin: Rule; practice: Schemas["Practices"]; onClose: () => void }) {
  const { envelope, patch } = usePlan();
  const units = envelope.plan.units ?? "metric";
  const overrides = envelope.plan.practice.overrides ?? [];
  const held = overrides.find((one) => one.rule === origin.rule);
  const [text, setText] = useState(held ? asText(held.value, origin.rule, units) : "");
  const [reason, setReason] = useState(held?.reason ?? "");
  const schools = practice.schools[origin.rule];
  const choices: Options | null = schools ? Object.entries(schools) : origin.rule === "tinned" ? YES_NO : null;
  const here = `/practice/overrides/rule:${origin.rule}`;
  const send = (one: PatchOperation) => void patch([one]).then((done) => done && onClose());
  const hint = LISTS.has(origin.rule)
    ? `Separate by commas. ${origin.rule === "shelf" ? "Sizes in the plan's size system." : origin.rule === "fuse_stock" ? "A family and its ratings, as blade_regular 5 7.5 10." : `Known: ${Object.keys(practice.families).join(", ")}.`}`
    : origin.rule.endsWith("_frac")
      ? "In percent."
      : isLength(origin.rule)
        ? `In ${lengthUnit(units, isShort(origin.rule))}.`
        : origin.rule.endsWith("_mm2")
          ? "In mm²."
          : origin.rule.endsWith("_c")
            ? "In °C."
            : "";
  return (
    <Ask
      open
      title={origin.label}
      about={`In force: ${origin.shown}. ${origin.overridden ? "Changed in this plan." : `${origin.source} (${origin.certainty}).`}`}
      yes="Change for this plan"
      disabled={text === "" || reason.trim() === ""}
      onYes={() => {
        const value = { rule: origin.rule, value: asValue(text, origin.rule, units), reason };
        send(held ? { op: "replace", path: here, value } : { op: "add", path: "/practice/overrides/-", value });
      }}
      onClose={onClose}
    >
      {choices ? (
        <Choice label="New value" value={text} options={[["", "choose"], ...choices]} onChange={setText} />
      ) : (
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">New value</span>
          <input className="field" value={text} onChange={(event) => setText(event.target.value)} />
        </label>
      )}
      {hint && <p className="text-sm text-soft">{hint}</p>}
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Reason</span>
        <input className="field" value={reason} maxLength={400} onChange={(event) => setReason(event.target.value)} />
      </label>
      {held && (
        <Button onClick={() => send({ op: "remove", path: here })}>Back to the set's value</Button>
      )}
    </Ask>
  );
}
