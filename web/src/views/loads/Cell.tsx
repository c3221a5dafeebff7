// One cell that takes typing: what is typed goes to the program as it stands when the cell is left.
import { memo, useRef, useState } from "react";
import type { Column } from "../../api/client";
import { useActions } from "../../parts/plan";
import { cellId, isBlock, moveByKey } from "./grid";

export const Cell = memo(function Cell(props: {
  part: string;
  row: number;
  column: Column;
  label: string;
  value: string;
  faint?: boolean;
  right?: boolean;
  placeholder?: string;
  list?: string;
  onBlock: (text: string, row: number, column: Column) => void;
}) {
  const { edit, undo, redo } = useActions();
  const [draft, setDraft] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  // What was sent last and is not answered yet: leaving the cell sends it no second time, another text goes out after it.
  const sent = useRef<string | null>(null);
  const shown = draft ?? props.value;
  const commit = () => {
    if (draft === null || draft === (sent.current ?? props.value)) return;
    const text = draft;
    sent.current = text;
    void edit([{ op: "set_cell", part: props.part, column: props.column, text, confirmed: false }]).then((done) => {
      // Corrected before the answer came: the correction is on its way, or still being typed, and stays.
      if (sent.current !== text) return;
      sent.current = null;
      setWrong(!done);
      // What could not be taken stays on screen, so that it can be mended instead of typed again.
      if (done) setDraft((now) => (now === text ? null : now));
    });
  };
  return (
    <input
      id={cellId(props.row, props.column)}
      type="text"
      aria-label={props.label}
      aria-invalid={wrong}
      value={shown}
      placeholder={props.placeholder}
      list={props.list}
      autoComplete="off"
      className={`cell ${props.right ? "text-right font-mono" : ""} ${props.faint ? "text-soft" : ""} ${wrong ? "bg-stop-wash" : ""}`}
      onFocus={(event) => event.target.select()}
      onChange={(event) => {
        setDraft(event.target.value);
        setWrong(false);
      }}
      onBlur={commit}
      onPaste={(event) => {
        const text = event.clipboardData.getData("text/plain");
        if (!isBlock(text)) return;
        event.preventDefault();
        props.onBlock(text, props.row, props.column);
      }}
      onKeyDown={(event) => {
        const untouched = draft === null || draft === props.value;
        if (event.key === "Escape") {
          setDraft(null);
          setWrong(false);
        } else if ((event.ctrlKey || event.metaKey) && untouched && ["z", "y", "Z"].includes(event.key)) {
          event.preventDefault();
          if (event.key === "z") undo();
          else redo();
        } else if (event.key === "Enter") {
          event.preventDefault();
          commit();
          moveByKey(event, props.row, props.column);
        } else if (props.list !== undefined && !untouched && ["ArrowDown", "ArrowUp"].includes(event.key)) {
          // While a name is typed the arrows choose among what the catalogue offers.
          return;
        } else if (moveByKey(event, props.row, props.column)) event.preventDefault();
      }}
    />
  );
});
