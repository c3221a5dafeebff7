// What to buy as cards in the hand: the first line is what one asks for at the counter.
import type { ReactNode } from "react";

export type BuyCard = { key: string; group: string; what: ReactNode; amount: ReactNode; more: ReactNode };

export function BuyCards({ label, cards }: { label: string; cards: BuyCard[] }) {
  return (
    <ul aria-label={label} className="space-y-2">
      {cards.map((one, at) => (
        <li key={one.key}>
          {one.group !== "" && cards[at - 1]?.group !== one.group && <h4 className="pt-1 font-bold">{one.group}</h4>}
          <div className="border border-line bg-sheet p-2">
            <p className="flex justify-between gap-3">
              <span className="font-semibold">{one.what}</span>
              <span className="font-mono whitespace-nowrap">{one.amount}</span>
            </p>
            <div className="text-sm text-soft">{one.more}</div>
          </div>
        </li>
      ))}
    </ul>
  );
}
