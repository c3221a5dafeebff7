// Columns and rows of text as the server sends them, in a frame that scrolls sideways by itself.
export function PlainTable({ title, columns, rows }: { title: string; columns: readonly string[]; rows: readonly (readonly string[])[] }) {
  return (
    <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label={`${title}, table`}>
      <table className="w-full border-collapse text-sm">
        <caption className="sr-only">{title}</caption>
        <thead>
          <tr>
            {columns.map((name) => (
              <th key={name} scope="col" className="head">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={index} className="border-t border-line">
              {row.map((cell, at) => (
                <td key={at} className="px-1.5 py-1 whitespace-nowrap">
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
