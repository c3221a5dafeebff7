// What a CSV file holds, cell by cell, before anything is taken in.
import { useQuery } from "@tanstack/react-query";
import { toast } from "sonner";
import { answered, client, type Column, type Edit } from "../../api/client";
import { Ask } from "../../parts/Ask";
import { usePlan } from "../../parts/plan";

export function LoadsImport({ file, onClose }: { file: File; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const planId = envelope.plan_id;
  const { data, error } = useQuery({
    queryKey: ["loads-csv", planId, file.name, file.lastModified, file.size],
    queryFn: () =>
      answered(
        client.POST("/api/plans/{plan_id}/loads-csv", {
          params: { path: { plan_id: planId } },
          body: file as unknown as string,
          bodySerializer: (body) => body,
          headers: { "content-type": "text/csv" },
        }),
      ),
    gcTime: 0,
  });
  const take = () => {
    const rows = (data?.rows ?? [])
      .filter((row) => row.good)
      .map((row) => Object.fromEntries(row.cells.filter((cell) => cell.text.trim() !== "").map((cell) => [cell.column, cell.text])));
    const edits: Edit[] = [{ op: "add_loads", rows: rows as Record<Column, string>[], confirmed: false }];
    void edit(edits).then((done) => {
      if (done) toast.success(`Loads added: ${rows.length}`);
      onClose();
    });
  };
  const about = data
    ? `Separator: ${data.separator}. Rows that can be taken: ${data.good}; rows with a bad cell: ${data.bad}.${data.ignored.length > 0 ? ` Columns not known and left out: ${data.ignored.join(", ")}.` : ""}`
    : `Reading ${file.name}`;
  return (
    <Ask
      open
      wide
      title={`Loads in ${file.name}`}
      about={about}
      yes={data && data.bad > 0 ? `Take the ${data.good} good rows` : "Take them in"}
      disabled={!data || data.good === 0}
      problem={error?.message ?? null}
      onYes={take}
      onClose={onClose}
    >
      {data && (
        <div className="relative max-h-[50dvh] overflow-auto border border-line" tabIndex={0} role="region" aria-label="Rows of the file">
          <table className="w-full text-sm">
            <thead className="bg-zinc">
              <tr>
                <th scope="col" className="head">Line</th>
                {data.columns.map((column) => (
                  <th key={column} scope="col" className="head">
                    {column}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.rows.map((row) => (
                <tr key={row.line} className="border-t border-line align-top">
                  <th scope="row" className="px-1.5 py-1 text-left font-mono font-normal">
                    {row.line} {row.good ? <span className="text-good">✓</span> : <span className="text-stop">▲ bad</span>}
                    {row.problem && <span className="block text-stop">{row.problem}</span>}
                  </th>
                  {row.cells.map((cell) => (
                    <td key={cell.column} className={`px-1.5 py-1 ${cell.problem ? "bg-stop-wash" : ""}`}>
                      {cell.text}
                      {cell.problem && <span className="block text-xs text-stop">{cell.problem}</span>}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Ask>
  );
}
