// What lies on the workshop's shelf: remnants of wire by their length, things by their count.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Trash2 } from "lucide-react";
import { useState } from "react";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { FileButton } from "../../parts/FileButton";
import { Fold } from "../../parts/Fold";
import { typed } from "../../parts/format";
import { TextField } from "../../parts/Labelled";
import { Refused } from "../../parts/Refused";
import { stockQuery } from "./queries";

type Row = Schemas["StockIn"];

const told = (error: Error): string[] =>
  error instanceof ProblemError && error.problem.errors.length > 0 ? error.problem.errors.map((one) => `${one.pointer}: ${one.detail}`) : [error.message];

function AddRow({ onAdd }: { onAdd: (row: Row) => void }) {
  const [key, setKey] = useState("");
  const [length, setLength] = useState("");
  const [count, setCount] = useState("1");
  const add = () => {
    onAdd({ key: key.trim(), length_m: Number(length.replace(",", ".") || 0), count: Number(count.replace(",", ".")), note: "" });
    setKey("");
    setLength("");
    setCount("1");
  };
  return (
    <div className="flex flex-wrap items-end gap-2 py-2">
      <div className="w-64">
        <TextField label="Key" value={key} onCommit={setKey} onText={setKey} hint="wire:16 mm²:red, or lug:16 mm² × M8" />
      </div>
      <div className="w-32">
        <TextField label="Length, m" inputMode="decimal" keys={["m"]} value={length} onCommit={setLength} onText={setLength} hint="of each, wire only" />
      </div>
      <div className="w-24">
        <TextField label="How many" inputMode="decimal" keys={[]} value={count} onCommit={setCount} onText={setCount} hint=" " />
      </div>
      <Button className="mb-6" disabled={key.trim() === ""} onClick={add}>
        Put on the shelf
      </Button>
    </div>
  );
}

export function ShelfFold() {
  const cache = useQueryClient();
  const { data: stock = [] } = useQuery(stockQuery);
  const [problems, setProblems] = useState<string[]>([]);
  const done = () => {
    setProblems([]);
    for (const key of ["stock", "shopping", "quote"]) void cache.invalidateQueries({ queryKey: [key] });
  };
  const put = useMutation({
    mutationFn: (rows: Row[]) => answered(client.PUT("/api/stock", { body: rows })),
    onSuccess: done,
    onError: (error) => setProblems(told(error)),
  });
  const bring = useMutation({
    mutationFn: (text: string) => answered(client.POST("/api/stock/import", { body: text, bodySerializer: (body) => body, headers: { "content-type": "text/csv" } })),
    onSuccess: done,
    onError: (error) => setProblems(told(error)),
  });
  return (
    <Fold title={<b className="text-base font-bold">On the shelf: {stock.length === 0 ? "nothing noted" : `${stock.length} ${stock.length === 1 ? "thing" : "things"}`}</b>} className="border border-line bg-sheet px-2">
      <Refused title="Nothing was changed" problems={problems} />
      <ul>
        {stock.map((one, at) => (
          <li key={`${one.key} ${one.length_m} ${at}`} className="flex items-center gap-3 border-b border-line">
            <span className="grow font-mono text-sm">{one.key}</span>
            <span className="font-mono">
              {typed(one.count)} {one.length_m > 0 && `× ${typed(one.length_m)} m`}
            </span>
            <Button look="quiet" aria-label={`Take ${one.key} off the shelf`} onClick={() => put.mutate(stock.filter((_, other) => other !== at))}>
              <Trash2 size={18} />
            </Button>
          </li>
        ))}
      </ul>
      <AddRow onAdd={(row) => put.mutate([...stock, row])} />
      <div className="flex flex-wrap gap-2 pb-2">
        <a className="inline-flex min-h-11 items-center gap-2 border border-line px-3 hover:bg-zinc" href="/api/stock/export" download>
          <Download size={18} aria-hidden /> CSV
        </a>
        <FileButton text="Bring in a CSV" label="CSV of the shelf" accept=".csv,text/csv" onFile={(file) => void file.text().then((text) => bring.mutate(text))} />
      </div>
    </Fold>
  );
}
