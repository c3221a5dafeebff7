// The library of parts: what ships, own parts, CSV in and out.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Trash2 } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, ProblemError, type PartCard } from "../../api/client";
import { partsQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { FileButton } from "../../parts/FileButton";
import { partFacts } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";
import { KIND } from "../../parts/kinds";
import { Refused } from "../../parts/Refused";
import { headsOf, WideTable } from "../../parts/WideTable";
import type { Theme } from "../../parts/theme";

export function LibraryView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const { data = [], error, isPending } = useQuery(partsQuery);
  const [words, setWords] = useState("");
  const [problems, setProblems] = useState<string[]>([]);
  const cache = useQueryClient();
  const refresh = () => void cache.invalidateQueries({ queryKey: partsQuery.queryKey });
  const remove = useMutation({
    mutationFn: (card: PartCard) => answered(client.DELETE("/api/parts/{part_id}", { params: { path: { part_id: card.part_id ?? "" } } })),
    onSuccess: refresh,
    onError: (one) => toast.error("Not taken out", { description: String(one) }),
  });
  const bring = useMutation({
    mutationFn: (text: string) =>
      answered(client.POST("/api/parts/import", { body: text, bodySerializer: (body) => body, headers: { "content-type": "text/csv" } })),
    onSuccess: (made) => {
      setProblems([]);
      toast.success(`${made.length} parts taken in`);
      refresh();
    },
    onError: (one) => setProblems(one instanceof ProblemError ? (one.problem.errors ?? []).map((line) => `${line.pointer}: ${line.detail}`) : [String(one)]),
  });
  const shown = data.filter((card) => `${card.name} ${KIND[String(card.part.kind)] ?? ""}`.toLowerCase().includes(words.toLowerCase()));
  return (
    <div className="min-h-dvh">
      <PageHead title="Library of parts" theme={theme} onTheme={onTheme} />
      <main className="mx-auto max-w-5xl p-4">
        <p className="mb-3 text-soft">
          Generic parts with typical figures, and your own. A plan takes a copy: changing or removing a part here changes no plan. Read the figures off the part in
          hand.
        </p>
        <div className="mb-3 flex flex-wrap items-end gap-2">
          <label className="grow text-sm">
            <span className="sr-only">Search the library</span>
            <input type="search" className="field max-w-xs" placeholder="Search" value={words} onChange={(event) => setWords(event.target.value)} />
          </label>
          <a className="inline-flex min-h-11 items-center gap-2 border border-line px-3 hover:bg-zinc" href="/api/parts/export" download>
            <Download size={18} aria-hidden /> CSV
          </a>
          <FileButton text="Bring in a CSV" label="CSV of parts" accept=".csv,text/csv" onFile={(file) => void file.text().then((text) => bring.mutate(text))} />
        </div>
        <Refused title="Nothing was taken in" problems={problems} />
        {error && <p role="alert">{error.message}</p>}
        {isPending && <p>Opening the library</p>}
        <WideTable label="Parts" heads={[...headsOf("Part", "Kind", "Figures", "Note"), ["tools", <span className="sr-only" key="tools">Remove</span>]]}>
          {shown.map((card) => (
            <tr key={card.part_id ?? card.name} className="border-t border-line">
              <th scope="row" className="h-11 px-1.5 text-left font-semibold">
                {card.name}
              </th>
              <td className="px-1.5 text-sm">{KIND[String(card.part.kind)] ?? ""}</td>
              <td className="px-1.5 text-sm">{partFacts(card.part)}</td>
              <td className="px-1.5 text-sm text-soft">{card.part_id === null ? `ships with the program, ${card.note}` : card.note || "own"}</td>
              <td className="px-1.5 text-right">
                {card.part_id !== null && (
                  <Button look="quiet" aria-label={`Remove ${card.name} from the library`} onClick={() => remove.mutate(card)}>
                    <Trash2 size={18} />
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </WideTable>
        {!isPending && shown.length === 0 && <p className="border border-dashed border-line bg-sheet p-8 text-center">No part matches.</p>}
      </main>
    </div>
  );
}
