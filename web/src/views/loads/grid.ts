// Where the keys lead in the load list, and how a pasted block is read.
import type { Column, Edit, Load } from "../../api/client";

export const COLUMNS: readonly Column[] = [
  "name", "power_w", "current_a", "behaviour", "count", "hours_per_day", "length", "loop_length",
  "place", "sensitive", "keyed", "maker_least", "maker_greatest", "maker_fuse_a",
];

export function cellId(row: number, column: Column): string {
  return `cell-${row}-${column}`;
}

export function focusCell(row: number, column: Column): boolean {
  const cell = document.getElementById(cellId(row, column));
  if (cell === null) return false;
  cell.focus();
  if (cell instanceof HTMLInputElement && cell.type === "text") cell.select();
  return true;
}

// Arrow keys move between cells; inside a text they first move the caret to its end.
export function moveByKey(event: React.KeyboardEvent<HTMLElement>, row: number, column: Column): boolean {
  const at = COLUMNS.indexOf(column);
  const step = (by: number): boolean => {
    const next = COLUMNS[at + by];
    return next !== undefined && focusCell(row, next);
  };
  const field = event.target;
  const text = field instanceof HTMLInputElement && field.type === "text" ? field : null;
  const whole = text === null || (text.selectionStart === 0 && text.selectionEnd === text.value.length);
  if (event.altKey || event.ctrlKey || event.metaKey) return false;
  if (event.key === "Enter") return focusCell(event.shiftKey ? row - 1 : row + 1, column);
  if (event.key === "ArrowDown") return focusCell(row + 1, column);
  if (event.key === "ArrowUp") return focusCell(row - 1, column);
  if (event.key === "ArrowLeft" && (whole || text.selectionEnd === 0)) return step(-1);
  if (event.key === "ArrowRight" && (whole || text.selectionStart === text.value.length)) return step(1);
  return false;
}

export function isBlock(text: string): boolean {
  return /[\t\n]/.test(text.replace(/\r?\n$/, ""));
}

// A block from a spreadsheet lands with its first cell where the caret is; rows beyond the list become new loads.
export function blockEdits(text: string, row: number, column: Column, loads: readonly Load[]): Edit[] {
  const at = COLUMNS.indexOf(column);
  const lines = text.replace(/\r/g, "").replace(/\n$/, "").split("\n").map((line) => line.split("\t"));
  const edits: Edit[] = [];
  const added: Partial<Record<Column, string>>[] = [];
  lines.forEach((cells, down) => {
    const load = loads[row + down];
    const fresh: Partial<Record<Column, string>> = {};
    cells.forEach((cell, across) => {
      const target = COLUMNS[at + across];
      if (target === undefined || (cell.trim() === "" && load === undefined)) return;
      if (load !== undefined) edits.push({ op: "set_cell", part: load.id, column: target, text: cell, confirmed: false });
      else fresh[target] = cell;
    });
    if (load === undefined && Object.keys(fresh).length > 0) added.push(fresh);
  });
  if (added.length > 0) edits.push({ op: "add_loads", rows: added as Record<Column, string>[], confirmed: false });
  return edits;
}
