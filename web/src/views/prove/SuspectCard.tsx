// One cause: how likely, how bad, and the readings expected under it beside those taken.
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { NewEntry } from "../../api/record";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { TextField } from "../../parts/Labelled";
import { percent } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { headsOf, WideTable } from "../../parts/WideTable";

type Props = { suspect: Schemas["Suspect"]; place: number; open: boolean; onFound: (entry: NewEntry) => void; onDone: () => void };

export function SuspectCard({ suspect, place, open, onFound, onDone }: Props) {
  const { goTo } = usePlan();
  const [mended, setMended] = useState("");
  const [found, setFound] = useState(false);
  const subject = suspect.run !== "" ? suspect.run : suspect.part;
  const note = () => {
    onFound({
      kind: "cause",
      subject: subject === "" ? "sound" : subject,
      was: `${suspect.text}, ${suspect.size}`.slice(0, 400),
      text: mended.trim() === "" ? suspect.text : mended,
      detail: { kind: suspect.kind, cause: suspect.id.slice(0, 200), share: suspect.share },
    });
    onDone();
  };
  return (
    <li className="border border-line bg-sheet p-2" aria-label={suspect.text}>
      <div className="flex items-start gap-3">
        <span className="w-16 shrink-0 text-right font-mono text-lg font-bold whitespace-nowrap">{percent(suspect.share, 0)}</span>
        <div className="min-w-0 grow">
          <p className={`break-words ${open ? "font-semibold" : ""}`}>{suspect.text}</p>
          {suspect.kind !== "sound" && suspect.size !== "" && <p className="font-mono text-sm">{suspect.size}</p>}
          <p className="text-sm text-soft">{suspect.mend}.</p>
          {(suspect.beside.length > 0 || suspect.kind !== "sound") && (
            <Fold key={open ? "open" : "shut"} title={place === 1 ? "Readings under it, and found" : "Readings under it"} open={open && suspect.beside.length > 0}>
              {suspect.beside.length > 0 && (
                <WideTable label={`Readings if it is: ${suspect.text}`} heads={headsOf("Reading", "Taken", "If it is this", "With nothing wrong")}>
                  {suspect.beside.map((one) => (
                    <tr key={`${one.reading} ${one.situation}`} className="border-t border-line text-sm">
                      <th scope="row" className="p-1 text-left font-normal">
                        {one.label} <span className="text-soft">{one.state}</span>
                      </th>
                      <td className="p-1 text-right font-mono whitespace-nowrap">{one.taken_text}</td>
                      <td className={`p-1 text-right font-mono whitespace-nowrap ${one.fits ? "" : "bg-fix-wash font-bold"}`}>
                        {one.expected_text}
                        {!one.fits && <span className="sr-only"> does not fit</span>}
                      </td>
                      <td className="p-1 text-right font-mono whitespace-nowrap">{one.sound_text}</td>
                    </tr>
                  ))}
                </WideTable>
              )}
              <p className="py-1 text-sm text-soft">Odds: {suspect.prior}.</p>
              <div className="flex flex-wrap gap-2 pb-1">
                {subject !== "" && (
                  <Button look="quiet" onClick={() => goTo(subject)}>
                    Open in the plan
                  </Button>
                )}
                {suspect.kind !== "sound" && !found && <Button onClick={() => setFound(true)}>This was it</Button>}
              </div>
              {found && (
                <div className="space-y-2 border-t border-line pt-2">
                  <TextField label="What mended it" value={mended} onCommit={setMended} onText={setMended} long />
                  <Button onClick={note}>Note cause and mend in the record</Button>
                </div>
              )}
            </Fold>
          )}
        </div>
      </div>
    </li>
  );
}
