// Backups of all jobs: made by the program itself, made now, brought back.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { keepingQuery } from "../../api/shelf";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { headsOf, WideTable } from "../../parts/WideTable";

const WHY: Record<string, string> = {
  "by-itself": "automatic",
  asked: "asked for",
  "before-schema": "before the file was brought up to a new version",
  "before-restore": "before a restore",
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
      toast.success("Restored. What was there before is kept as a backup.");
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
      {isPending && !error && <p>Reading backups</p>}
      {data?.read_only && <p role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">{data.read_only}.</p>}
      {(data?.notes ?? []).map((note) => (
        <p key={note} role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">{note}.</p>
      ))}
      {data && (
        <p className="mb-3 text-soft">
          All jobs are kept in <span className="break-all font-mono text-sm">{data.path}</span>. While the program runs it makes a backup every two hours if something has
          changed, and keeps the last few, one a day for a fortnight and one a month for a year; older ones go before the copies together take 20 GB. They lie in{" "}
          <span className="break-all font-mono text-sm">{data.folder}</span>, each photo once, {size(data.size_bytes)} in all: on the same disk. Now and then copy that folder
          elsewhere.
        </p>
      )}
      {data?.problem && (
        <p role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">
          Backup failed: {data.problem}. {data.kept_at ? `Last successful check: ${date(data.kept_at)}.` : "The next try is in five minutes."}
        </p>
      )}
      {data?.kept_at && !data.problem && <p className="mb-3 text-soft">Last check: {date(data.kept_at)}.</p>}
      {data && backups.length === 0 && <p className="border border-dashed border-line bg-sheet p-6 text-center">No backup yet. The first is made automatically once there is a job.</p>}
      {backups.length > 0 && (
        <WideTable heads={headsOf("Made", "Why", "Holds", "Size", "Restore")} label="Backups">
          {backups.map((one) => (
            <tr key={one.name} className="border-t border-line">
              <td className="px-1.5 py-1">{date(one.made_at)}</td>
              <td className="px-1.5 py-1">{WHY[one.why] ?? one.why}</td>
              <td className="px-1.5 py-1">{one.problem ? <span className="text-stop">not sound: {one.problem}</span> : jobs(one.plans)}
                {one.missing_pictures > 0 && <span className="text-fix">; {one.missing_pictures} of its photos {one.missing_pictures === 1 ? "is" : "are"} missing beside it</span>}
              </td>
              <td className="px-1.5 py-1">{size(one.size_bytes)}</td>
              <td className="px-1.5 py-1">
                <Button disabled={Boolean(one.problem) || restore.isPending} aria-label={`Restore the backup of ${date(one.made_at)}`} onClick={() => setAsked(one)}>
                  Restore
                </Button>
              </td>
            </tr>
          ))}
        </WideTable>
      )}
      <Ask
        open={asked !== null}
        title="Restore this backup?"
        about={`${asked ? date(asked.made_at) : ""}, ${jobs(asked?.plans ?? 0)}. It replaces all jobs as they are now; those are backed up first.`}
        yes="Restore"
        onYes={() => {
          if (asked) restore.mutate(asked.name);
          setAsked(null);
        }}
        onClose={() => setAsked(null)}
      />
    </section>
  );
}
