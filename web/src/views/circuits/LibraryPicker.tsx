// Choose a part out of the library, by search.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { PartCard } from "../../api/client";
import { partsQuery } from "../../api/plans";
import { KIND } from "../../parts/kinds";

export function LibraryPicker(props: { chosen: PartCard | null; kinds?: readonly string[]; onChoose: (card: PartCard) => void }) {
  const { data: cards = [] } = useQuery(partsQuery);
  const [words, setWords] = useState("");
  const shown = cards.filter((card) => {
    const kind = String(card.part.kind);
    if (props.kinds !== undefined && !props.kinds.includes(kind)) return false;
    return `${card.name} ${KIND[kind] ?? ""}`.toLowerCase().includes(words.toLowerCase());
  });
  return (
    <>
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Search the library</span>
        <input className="field" type="search" autoFocus value={words} onChange={(event) => setWords(event.target.value)} />
      </label>
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Part</span>
        <select
          className="field"
          size={6}
          style={{ height: "auto" }}
          value={props.chosen === null ? "" : String(shown.indexOf(props.chosen))}
          onChange={(event) => {
            const card = shown[Number(event.target.value)];
            if (card !== undefined) props.onChoose(card);
          }}
        >
          {shown.map((card, index) => (
            <option key={card.part_id ?? card.name} value={String(index)}>
              {card.name}
              {card.part_id !== null ? " (own)" : ""}
            </option>
          ))}
        </select>
      </label>
    </>
  );
}
