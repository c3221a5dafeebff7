// What changed in the cut list since it was printed, to be written on the paper.
import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { fileUrl } from "../../api/client";
import { sinceQuery, useRecord } from "../../api/record";
import { Fold } from "../../parts/Fold";
import { date } from "../../parts/format";
import { usePlan } from "../../parts/plan";

const WORDS = { new: "new", gone: "not any more", other: "now" } as const;

export function SincePrinted() {
  const { envelope } = usePlan();
  const { data } = useQuery(sinceQuery(envelope.plan_id, envelope.revision));
  const { add } = useRecord(envelope.plan_id);
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap gap-2">
        {(["a4", "letter"] as const).map((paper) => (
          <a
            key={paper}
            href={fileUrl(envelope.plan_id, "cut-list.pdf", `?paper=${paper}`)}
            target="_blank"
            rel="noreferrer"
            onClick={() => add({ kind: "printed", subject: "cut-list" })}
            className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc"
          >
            <Printer size={18} aria-hidden /> Print it, {paper === "a4" ? "A4" : "Letter"}
          </a>
        ))}
        {data !== undefined && data.printed_at !== "" && (
          <p className="self-center text-soft">
            Printed {date(data.printed_at)}
            {data.who !== "" && `, ${data.who}`}, revision {data.revision}
            {data.changes.length === 0 && "; nothing in it has changed since"}
          </p>
        )}
      </div>
      {data !== undefined && data.changes.length > 0 && (
        <Fold open title={<b className="font-semibold">{data.changes.length} pieces differ from the printed list</b>} className="border-l-4 border-copper bg-copper-wash px-2">
          <ul className="pb-2 text-sm">
            {data.changes.map((one) => (
              <li key={one.id}>
                <b className="font-mono">
                  {one.tag} {one.leg}
                </b>{" "}
                {one.was}
                {one.was !== "" && " "}
                <b className="font-semibold">{WORDS[one.kind]}</b> {one.now}
              </li>
            ))}
          </ul>
        </Fold>
      )}
    </div>
  );
}
