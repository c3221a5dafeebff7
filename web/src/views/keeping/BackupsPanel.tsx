// Backups of all jobs: made by the program itself, made now, brought back.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { keepingQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { headsOf, WideTable } from "../../parts/WideTable";

const WHY: Record<string, string> = {
  "by-itself": "by itself",
  asked: "asked for",
  "before-schema": "before the file was brought up to a new version",
  "before-restore": "before another was brought back",
};

function size(bytes: number): string {
  return bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
}

function jobs(count: number): string {
  return count === 1 ? "1 job" : `${count} jobs`;
}

function explain(error: unknown) {
  toast.error("Not done", { description: error instanceof ProblemError ? error.problem.detail : String(error), duration: 15000 });
}

export function BackupsPanel() {
  const cache = useQueryClient();
  const { data, error, isPending } = useQuery(keepingQuery);
  const [asked, setAsked] = useState<Schemas["BackupCard"] | null>(null);
  const make = useMutation({
    mutationFn: () => answered(client.POST("/api/backups")),
    onSuccess: (made) => {
      toast.success(`Backup made: ${jobs(made.plans)}, opened and checked`);
      void cache.invalidateQueries({ queryKey: keepingQuery.queryKey });
    },
    onError: explain,
  });
  const restore = useMutation({
    mutationFn: (name: string) => answered(client.POST("/api/backups/{name}/restore", { params: { path: { name } } })),
    onSuccess: () => {
      toast.success("Brought back. What was there before is a backup too.");
      // Everything may be another now.
      cache.clear();
      void cache.invalidateQueries();
    },
    onError: explain,
  });
  const backups = data?.backups ?? [];
  return (
    <section aria-labelledby="backups-title">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 id="backups-title" className="grow text-xl font-bold">
          Backups
        </h2>
        <Button look="main" disabled={make.isPending || Boolean(data?.read_only)} onClick={() => make.mutate()}>
          {make.isPending ? "Copying and checking" : "Back up now"}
        </Button>
      </div>
      {error && <p role="alert" className="border-l-4 border-stop bg-stop-wash p-3">{error.message}</p>}
      {isPending && !error && <p>Looking into the backups</p>}
      {data?.read_only && <p role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">{data.read_only}.</p>}
      {(data?.notes ?? []).map((note) => (
        <p key={note} role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">{note}.</p>
      ))}
      {data && (
        <p className="mb-3 text-soft">
          All jobs are kept in <span className="break-all font-mono text-sm">{data.path}</span>. While the program runs it makes a backup every two hours if something has
          changed, and keeps the last few, one a day for a fortnight and one a month for a year. They lie in{" "}
          <span className="break-all font-mono text-sm">{data.folder}</span>, {size(data.size_bytes)} in all and never beyond 20 GB, each photo once: on the same disk. Now and then copy
          that folder elsewhere.
        </p>
      )}
      {data?.problem && (
        <p role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">
          No backup could be made: {data.problem}. {data.kept_at ? `All was well last at ${date(data.kept_at)}.` : "It is tried again every five minutes."}
        </p>
      )}
      {data?.kept_at && !data.problem && <p className="mb-3 text-soft">Looked after last at {date(data.kept_at)}: whatever is due is made.</p>}
      {data && backups.length === 0 && <p className="border border-dashed border-line bg-sheet p-6 text-center">No backup yet. The first is made by itself once there is a job.</p>}
      {backups.length > 0 && (
        <WideTable heads={headsOf("Made", "Why", "Holds", "Size", "Bring back")} label="Backups">
          {backups.map((one) => (
            <tr key={one.name} className="border-t border-line">
              <td className="px-1.5 py-1">{date(one.made_at)}</td>
              <td className="px-1.5 py-1">{WHY[one.why] ?? one.why}</td>
              <td className="px-1.5 py-1">{one.problem ? <span className="text-stop">not sound: {one.problem}</span> : jobs(one.plans)}
                {one.missing_pictures > 0 && <span className="text-fix">; {one.missing_pictures} of its photos {one.missing_pictures === 1 ? "is" : "are"} missing beside it</span>}
              </td>
              <td className="px-1.5 py-1">{size(one.size_bytes)}</td>
              <td className="px-1.5 py-1">
                <Button disabled={Boolean(one.problem) || restore.isPending} aria-label={`Bring back the backup of ${date(one.made_at)}`} onClick={() => setAsked(one)}>
                  Bring back
                </Button>
              </td>
            </tr>
          ))}
        </WideTable>
      )}
      <Ask
        open={asked !== null}
        title="Bring this backup back?"
        about={`${asked ? date(asked.made_at) : ""}, ${jobs(asked?.plans ?? 0)}. It takes the place of all jobs as they are now; of those a backup is made first.`}
        yes="Bring back"
        onYes={() => {
          if (asked) restore.mutate(asked.name);
          setAsked(null);
        }}
        onClose={() => setAsked(null)}
      />
    </section>
  );
}
