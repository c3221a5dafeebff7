// A term of the trade or a code in a text: pointed at, tapped or reached by keyboard it opens what it is, why, a picture,
// and where it comes from.
import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import type { Drawing } from "../api/client";
import { wordQuery, wordsQuery } from "../api/words";
import { Shapes } from "./Picture";

const WAIT_MS = 350;
const nothing = () => undefined;

export function WordBody({ name }: { name: string }) {
  const { data, error } = useQuery(wordQuery(name));
  if (error) return <p>{error.message}</p>;
  if (data === undefined) return <p className="text-soft">Looking it up</p>;
  return (
    <div className="space-y-2 text-left font-sans text-sm">
      <p>
        <b>{data.word.name}</b>: {data.word.what}
      </p>
      <p>{data.word.why}</p>
      {data.picture && (
        <div className="[&>svg]:h-auto [&>svg]:max-w-full">
          <Shapes drawing={data.picture as Drawing} onOpen={nothing} />
        </div>
      )}
      <p className="text-soft">Source: {data.word.source}</p>
    </div>
  );
}

export function Term({ name, text }: { name: string; text?: string }) {
  const [open, setOpen] = useState(false);
  const [timer, setTimer] = useState<ReturnType<typeof setTimeout> | null>(null);
  const later = (next: boolean) => {
    if (timer !== null) clearTimeout(timer);
    setTimer(setTimeout(() => setOpen(next), WAIT_MS));
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button type="button" className="inline cursor-help text-left underline decoration-dotted underline-offset-2" onPointerEnter={(event) => event.pointerType === "mouse" && later(true)} onPointerLeave={(event) => event.pointerType === "mouse" && later(false)}>
          {text ?? name}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          collisionPadding={8}
          onOpenAutoFocus={(event) => event.preventDefault()}
          onPointerEnter={() => timer !== null && clearTimeout(timer)}
          onPointerLeave={(event) => event.pointerType === "mouse" && later(false)}
          className="z-60 w-[min(26rem,calc(100vw-2rem))] border border-ink bg-sheet p-3 shadow-lg"
        >
          <WordBody name={name} />
          <Link to={`/words?term=${encodeURIComponent(name)}`} className="inline-flex min-h-11 items-center text-sm underline">
            All words
          </Link>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A text in which every term that is known can be opened. */
export function WithTerms({ text }: { text: string }) {
  const { data } = useQuery(wordsQuery);
  const pieces = useMemo(() => {
    const terms = (data ?? []).filter((one) => one.kind === "term").map((one) => one.name);
    if (terms.length === 0) return [text];
    const any = terms
      .sort((a, b) => b.length - a.length)
      .map((one) => one.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"))
      .join("|");
    return text.split(new RegExp(`\\b(${any})\\b`, "i"));
  }, [data, text]);
  return (
    <>
      {pieces.map((piece, index) => (index % 2 === 1 ? <Term key={index} name={piece} /> : piece))}
    </>
  );
}
