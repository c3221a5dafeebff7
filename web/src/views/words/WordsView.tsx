// The glossary: every term and every code, searched and opened.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { wordsQuery } from "../../api/words";
import { PageHead } from "../../parts/PageHead";
import { WordBody } from "../../parts/Term";
import type { Theme } from "../../parts/theme";

export function WordsView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const { data = [], error } = useQuery(wordsQuery);
  const [search, setSearch] = useSearchParams();
  const [text, setText] = useState("");
  const term = search.get("term");
  const shown = data.filter((one) => `${one.name} ${one.what}`.toLowerCase().includes(text.toLowerCase()));
  return (
    <div className="min-h-dvh">
      <PageHead title="Words" theme={theme} onTheme={onTheme} />
      <main className="mx-auto grid max-w-5xl gap-4 p-4 md:grid-cols-[20rem_1fr]">
        <section aria-label="All words">
          <label className="text-sm">
            <span className="sr-only">Search the words</span>
            <input type="search" className="field" placeholder="A term or a code" value={text} onChange={(event) => setText(event.target.value)} />
          </label>
          {error && <p role="alert">{error.message}</p>}
          <ul className="mt-2 border border-line bg-sheet md:max-h-[75dvh] md:overflow-y-auto">
            {shown.map((one) => (
              <li key={one.name}>
                <button
                  type="button"
                  aria-current={term === one.name}
                  className={`min-h-11 w-full px-2 text-left hover:bg-zinc ${one.kind === "code" ? "font-mono text-sm" : "font-semibold"} ${term === one.name ? "bg-copper-wash" : ""}`}
                  onClick={() => setSearch({ term: one.name })}
                >
                  {one.name}
                </button>
              </li>
            ))}
            {data.length > 0 && shown.length === 0 && <li className="p-3 text-soft">No such word.</li>}
          </ul>
        </section>
        <section aria-label="What it is" aria-live="polite" className="max-md:order-first">
          {term === null ? <p className="text-soft">Choose a word.</p> : <WordBody name={term} />}
        </section>
      </main>
    </div>
  );
}
