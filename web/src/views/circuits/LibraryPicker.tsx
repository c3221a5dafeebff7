// Choose a part out of the library: type to narrow it, arrows and Enter to take one.
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { Check } from "lucide-react";
import type { PartCard } from "../../api/client";
import { partsQuery } from "../../api/plans";
import { KIND } from "../../parts/kinds";

export function LibraryPicker(props: { chosen: PartCard | null; kinds?: readonly string[]; onChoose: (card: PartCard) => void }) {
  const { data: cards = [] } = useQuery(partsQuery);
  const offered = cards.filter((card) => props.kinds === undefined || props.kinds.includes(String(card.part.kind)));
  const keyOf = (card: PartCard) => card.part_id ?? card.name;
  return (
    <Command label="Search the library" className="border border-line">
      <Command.Input autoFocus className="field border-0 border-b" placeholder="Search the library" />
      <Command.List label="Parts of the library" className="max-h-56 overflow-y-auto">
        <Command.Empty className="p-3 text-soft">No part matches.</Command.Empty>
        {offered.map((card) => (
          <Command.Item
            key={keyOf(card)}
            value={keyOf(card)}
            keywords={[card.name, KIND[String(card.part.kind)] ?? ""]}
            onSelect={() => props.onChoose(card)}
            className={`flex min-h-11 cursor-pointer items-center gap-2 px-2 data-[selected=true]:bg-zinc ${props.chosen === card ? "font-bold" : ""}`}
          >
            <span className="w-5 shrink-0">{props.chosen === card && <Check size={18} aria-label="chosen" />}</span>
            {card.name}
            {card.part_id !== null ? " (own)" : ""}
          </Command.Item>
        ))}
      </Command.List>
    </Command>
  );
}
