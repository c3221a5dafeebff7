// What a refused file or list was refused for, line by line.
const MOST = 12;

export function Refused({ title, problems }: { title: string; problems: string[] }) {
  if (problems.length === 0) return null;
  return (
    <div role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-2">
      <p className="font-semibold">{title}</p>
      <ul className="text-sm">
        {problems.slice(0, MOST).map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}
