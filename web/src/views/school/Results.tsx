// How a case was graded.
import type { Case } from "../../api/school";
import { Term } from "../../parts/Term";
import { Verdict } from "../../parts/Verdict";

const OUTCOME: Record<string, string> = { found: "found", guessed: "right, but a guess: nothing you read bears it out", place: "right place, another reason", missed: "missed", near: "right run or part, another cause" };

function Points({ value }: { value: number }) {
  return <p className="text-2xl font-bold">{value} of 100</p>;
}

export function Results({ found }: { found: Case }) {
  if (found.mistakes) {
    const { mistakes, alarms, brought, clean, points, schools } = found.mistakes;
    return (
      <section aria-label="Grade" className="space-y-3 border border-line bg-sheet p-4">
        <Points value={points} />
        <ul className="space-y-2">
          {mistakes.map((one) => (
            <li key={`${one.mistake.code} ${one.mistake.subject}`}>
              <Verdict grade={one.outcome === "found" ? "good" : one.outcome === "place" ? "look" : "stop"} word={false} /> <b>{one.title}</b>: {OUTCOME[one.outcome]},{" "}
              {one.mended ? "mended" : "not mended"}
              <span className="block text-sm">{one.why}</span>
              <span className="block font-mono text-xs text-soft">
                <Term name={one.mistake.code} />
              </span>
            </li>
          ))}
        </ul>
        {alarms.length > 0 && (
          <p>
            False alarms: {alarms.length} ({alarms.map((one) => one.code).join(", ")})
          </p>
        )}
        {brought.length > 0 && <p>Your mend brought in: {brought.join("; ")}</p>}
        {schools !== undefined && schools.length > 0 && (
          <dl className="text-sm">
            <dt className="font-semibold">The same van by each practice set</dt>
            {schools.map((one) => (
              <dd key={one.label}>
                {one.label}: {one.stops} stop, {one.fixes} fix, {one.looks} look
              </dd>
            ))}
          </dl>
        )}
        {clean && <p className="font-semibold text-good">The mend is clean.</p>}
      </section>
    );
  }
  if (found.fault) {
    const { fault } = found;
    return (
      <section aria-label="Grade" className="space-y-2 border border-line bg-sheet p-4">
        <Points value={fault.points} />
        <p>
          <Verdict grade={fault.outcome === "found" ? "good" : fault.outcome === "near" || fault.outcome === "guessed" ? "look" : "stop"} word={false} /> {OUTCOME[fault.outcome]}. It was: <b>{fault.what_it_was}</b>
        </p>
        <p>{fault.mend}.</p>
        <p>
          You took {fault.minutes} min; the program, by its own next readings, {fault.own_minutes} min{fault.own_found ? "" : ", and did not find it either"}:
        </p>
        <ol className="list-decimal pl-6 text-sm">
          {found.own.map((one, index) => (
            <li key={index}>
              {one.label} ({one.situation}): <b>{one.shown}</b>, {one.minutes} min
            </li>
          ))}
        </ol>
      </section>
    );
  }
  if (found.letter) {
    return (
      <section aria-label="Grade" className="space-y-2 border border-line bg-sheet p-4">
        <Points value={found.letter.points} />
        <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="Beside the proposal">
          <table className="w-full border-collapse">
            <thead>
              <tr>
                {["", "Yours", "Proposal", "Points"].map((name) => (
                  <th key={name} scope="col" className="head">
                    {name || <span className="sr-only">What</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {found.letter.lines.map((one) => (
                <tr key={one.name} className="border-t border-line">
                  <th scope="row" className="px-1.5 py-1 text-left font-semibold">
                    {one.name}
                  </th>
                  <td className="px-1.5">{one.yours}</td>
                  <td className="px-1.5">{one.proposed}</td>
                  <td className="px-1.5">
                    {one.points} of {one.most}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {found.letter.missing.length > 0 && <p>Missing from the letter: {found.letter.missing.join(", ")}</p>}
      </section>
    );
  }
  return null;
}
