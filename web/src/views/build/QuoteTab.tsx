// What the job is offered for: parts with a margin, hours by task, tax; kept under a number with its revision.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { useSearchParams } from "react-router";
import { toast } from "sonner";
import { answered, client, type Schemas } from "../../api/client";
import { namedQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { number, percent, typed } from "../../parts/format";
import { TextField } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";
import { Select } from "../../parts/Select";
import { usePlan } from "../../parts/plan";
import { useNarrow } from "../../parts/useNarrow";
import { headsOf, WideTable } from "../../parts/WideTable";
import { BuyCards } from "./BuyCards";
import { quoteQuery, quotesQuery, termsQuery } from "./queries";

type Terms = Schemas["TermsIn"];

function TermsFields() {
  const cache = useQueryClient();
  const { data } = useQuery(termsQuery);
  const put = useMutation({
    mutationFn: (terms: Terms) => answered(client.PUT("/api/terms", { body: terms })),
    onSuccess: (made) => {
      cache.setQueryData(termsQuery.queryKey, made);
      for (const key of ["quote", "shopping"]) void cache.invalidateQueries({ queryKey: [key] });
    },
    onError: (error) => toast.error("Not changed", { description: error.message }),
  });
  if (!data) return null;
  const { terms, usual } = data;
  const minutes = terms.minutes;
  const own = (kind: string, value: number | string | null) => {
    const next = Object.fromEntries(Object.entries(minutes).filter(([key]) => key !== kind));
    put.mutate({ ...terms, minutes: value === null ? next : { ...next, [kind]: value as number } });
  };
  return (
    <section aria-labelledby="terms-title" className="space-y-2">
      <h3 id="terms-title" className="text-lg font-bold">
        The workshop's terms
      </h3>
      <div className="grid grid-cols-2 gap-2">
        <NumberField label="An hour costs" value={terms.hour} onCommit={(value) => put.mutate({ ...terms, hour: value as number | null })} />
        <NumberField label="Margin on parts, %" percent value={terms.margin_frac} onCommit={(value) => put.mutate({ ...terms, margin_frac: (value ?? 0) as number })} />
        <NumberField label="Tax, %" percent value={terms.tax_frac} onCommit={(value) => put.mutate({ ...terms, tax_frac: (value ?? 0) as number })} />
        <TextField label="Name of the tax" value={terms.tax_name} onCommit={(text) => put.mutate({ ...terms, tax_name: text })} />
        <NumberField label="Valid for, days" value={terms.valid_days} onCommit={(value) => put.mutate({ ...terms, valid_days: (value ?? 30) as number })} />
      </div>
      <TextField
        label="Dies of the crimping tool"
        hint="sizes as the cut list names them: 16 mm², 35 mm²; empty where nobody has said"
        value={terms.dies.join(", ")}
        onCommit={(text) => put.mutate({ ...terms, dies: text.split(",").map((one) => one.trim()).filter((one) => one !== "") })}
      />
      <Fold title="Minutes of each task">
        <div className="grid grid-cols-2 gap-2 pb-2">
          {usual.map((one) => (
            <NumberField
              key={one.kind}
              label={one.label}
              hint={minutes[one.kind] === undefined ? `a ${one.unit}, usual` : `a ${one.unit}, own; usually ${typed(one.minutes)}`}
              value={minutes[one.kind] ?? one.minutes}
              onCommit={(value) => own(one.kind, value)}
            />
          ))}
        </div>
      </Fold>
    </section>
  );
}

function Kept({ since }: { since: number | null }) {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const cache = useQueryClient();
  const { data: kept = [] } = useQuery(quotesQuery(planId));
  const keep = useMutation({
    mutationFn: () => answered(client.POST("/api/plans/{plan_id}/quotes", { params: { path: { plan_id: planId }, query: { since } } })),
    onSuccess: (made) => {
      toast.success(`Quote ${made.number} is kept`);
      void cache.invalidateQueries({ queryKey: ["quotes", planId] });
    },
    onError: (error) => toast.error("No quote was kept", { description: error.message }),
  });
  const file = (one: string, own: boolean) => `/api/plans/${planId}/quotes/${one}.pdf${own ? "?own=true" : ""}`;
  return (
    <section aria-labelledby="kept-title" className="space-y-2">
      <div className="flex flex-wrap items-center gap-3">
        <h3 id="kept-title" className="grow text-lg font-bold">
          Quotes handed out
        </h3>
        <Button look="main" disabled={keep.isPending} onClick={() => keep.mutate()}>
          Give it a number and keep it
        </Button>
      </div>
      {kept.length === 0 && <p className="border border-line bg-sheet p-3">None yet. One that is kept does not change any more, whatever the plan or the prices do.</p>}
      <ul>
        {kept.map((one) => (
          <li key={one.number} className="flex flex-wrap items-center gap-3 border-b border-line py-1">
            <b className="font-mono">{one.number}</b>
            <span className="grow">
              {one.made_on}, valid until {one.valid_until}, revision {one.revision}
            </span>
            <b className="font-mono">
              {number(one.quote.total, 2)} {one.quote.currency}
            </b>
            {[false, true].map((own) => (
              <a key={String(own)} href={file(one.number, own)} target="_blank" rel="noreferrer" className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 hover:bg-zinc">
                <Printer size={18} aria-hidden /> {own ? "Own copy" : "Customer's copy"}
              </a>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

function QuoteTables({ quote }: { quote: Schemas["Quote"] }) {
  return (
    <>
      <WideTable label="Work" heads={headsOf("Work", "Quantity", "Minutes each", "Hours", "Price")}>
        {quote.work.map((one) => (
          <tr key={one.kind} className="border-t border-line">
            <td className="px-2 py-1.5">{one.what}</td>
            <td className="px-2 py-1.5 font-mono">
              {typed(one.quantity)} {one.unit}
            </td>
            <td className="px-2 py-1.5 font-mono">{typed(one.minutes)}</td>
            <td className="px-2 py-1.5 font-mono">{number(one.hours, 2)}</td>
            <td className="px-2 py-1.5 font-mono">{number(one.total, 2)}</td>
          </tr>
        ))}
      </WideTable>
      <WideTable label="Parts" heads={headsOf("Parts", "Quantity", "Bought for", "Price")}>
        {quote.parts.map((one) => (
          <tr key={`${one.what} ${one.cost}`} className="border-t border-line">
            <td className="px-2 py-1.5">{one.what}</td>
            <td className="px-2 py-1.5 font-mono">
              {typed(one.quantity)} {one.unit}
            </td>
            <td className="px-2 py-1.5 font-mono">{number(one.cost, 2)}</td>
            <td className="px-2 py-1.5 font-mono">{number(one.total, 2)}</td>
          </tr>
        ))}
      </WideTable>
    </>
  );
}

function QuoteCards({ quote }: { quote: Schemas["Quote"] }) {
  const work = quote.work.map((one) => ({ key: one.kind, group: "Work", what: one.what, amount: number(one.total, 2), more: `${typed(one.quantity)} ${one.unit}, ${number(one.hours, 2)} h` }));
  const parts = quote.parts.map((one) => ({ key: `${one.what} ${one.cost}`, group: "Parts", what: one.what, amount: number(one.total, 2), more: `${typed(one.quantity)} ${one.unit}, bought for ${number(one.cost, 2)}` }));
  return <BuyCards label="What it is made of" cards={[...work, ...parts]} />;
}

export function QuoteTab() {
  const { envelope } = usePlan();
  const narrow = useNarrow();
  const [search, setSearch] = useSearchParams();
  const asked = Number(search.get("since"));
  const since = Number.isInteger(asked) && asked > 0 && asked < envelope.revision ? asked : null;
  const named = useQuery(namedQuery(envelope.plan_id));
  const older = (named.data ?? []).filter((one) => one.revision < envelope.revision);
  const { data, error } = useQuery(quoteQuery(envelope.plan_id, envelope.revision, since));
  if (error && data === undefined) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data) return <p className="text-soft">Reckoning</p>;
  const sums: [string, number][] = [
    ["Parts", data.parts_total],
    [`Work, ${typed(data.hours)} h`, data.work_total],
    ["Together", data.net],
    [`${data.tax_name} ${percent(data.tax_frac)}`, data.tax],
  ];
  return (
    <div className="grid gap-6 xl:grid-cols-[2fr_1fr]">
      <div className="min-w-0 space-y-4">
        <p className="text-2xl">
          <b className="font-mono">{number(data.total, 2)}</b> {data.currency}
        </p>
        {(data.not_in_it ?? []).length > 0 && (
          <p className="text-soft">Wired and not in the price, because the customer has them or buys them: {(data.not_in_it ?? []).join(", ")}.</p>
        )}
        {data.missing.length > 0 && (
          <p className="border-l-4 border-fix bg-fix-wash p-2">
            Too low: no price for {data.missing.slice(0, 10).join(", ")}
            {data.missing.length > 10 && ` and ${data.missing.length - 10} more`}.
          </p>
        )}
        <ul className="max-w-md">
          {sums.map(([name, value]) => (
            <li key={name} className="flex justify-between border-b border-line py-1">
              <span>{name}</span>
              <span className="font-mono">{number(value, 2)}</span>
            </li>
          ))}
        </ul>
        {older.length > 0 && (
          <div className="max-w-md">
            <span className="mb-1 block text-sm font-semibold">Of what</span>
            <Select
              label="Of what"
              value={since === null ? "" : String(since)}
              options={[["", "The whole job"], ...older.map((one) => [String(one.revision), `What is beyond “${one.name}”, revision ${one.revision}`] as const)]}
              onChange={(value) =>
                setSearch((before) => {
                  const after = new URLSearchParams(before);
                  if (value === "") after.delete("since");
                  else after.set("since", value);
                  return after;
                })
              }
            />
          </div>
        )}
        <Kept since={since} />
        {narrow ? <QuoteCards quote={data} /> : <QuoteTables quote={data} />}
      </div>
      <TermsFields />
    </div>
  );
}
