// How one figure came about: formula, numbers put in, table rows with source and certainty, school.
import { WithTerms } from "./Term";
import type { Working } from "../api/client";
import { figure } from "./format";

export function WorkingBody({ working }: { working: Working }) {
  return (
    <div className="space-y-4">
      <p className="text-2xl font-bold">{figure(working.value, working.unit)}</p>
      <p className="border-l-4 border-copper bg-copper-wash p-2 font-mono text-sm">{working.formula}</p>
      <table className="w-full text-sm">
        <caption className="mb-1 text-left font-semibold">Numbers put in</caption>
        <tbody>
          {working.inputs.map((input, index) => (
            <tr key={index} className="border-t border-line">
              <th scope="row" className="py-1 pr-2 text-left font-mono font-normal whitespace-nowrap">
                {input.symbol}
              </th>
              <td className="py-1 pr-2">{input.name}</td>
              <td className="py-1 text-right font-mono whitespace-nowrap">{figure(input.value, input.unit)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {working.rows.length > 0 && (
        <div>
          <h3 className="text-sm font-semibold">Table rows</h3>
          <ul className="text-sm">
            {working.rows.map((row, index) => (
              <li key={index} className="border-t border-line py-2">
                <span className="font-mono">
                  {row.table}: {row.row} · {row.column} = {row.value}
                </span>
                <br />
                {row.source}
                <br />
                <span className="text-soft">How sure: {row.certainty}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      {working.school && (
        <div className="text-sm">
          <h3 className="font-semibold">School</h3>
          <p>{working.school}</p>
        </div>
      )}
      {working.note && (
        <p className="text-sm text-soft">
          <WithTerms text={working.note} />
        </p>
      )}
    </div>
  );
}
