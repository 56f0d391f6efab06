import { dsvFormat } from 'd3-dsv';

/** A row of a table, and the line of the file that it begins on. */
export interface Row {
  readonly line: number;
  readonly cells: readonly string[];
}

/**
 * The rows of delimited text (RFC 4180: quotation marks round cells, doubled inside, line breaks allowed in them), blank
 * lines left out. A byte-order mark is passed over.
 *
 * @returns `unclosed`: the line of a row whose quotation mark is never closed; null where there is none
 */
export function readRows(text: string, separator = ','): { rows: Row[]; unclosed: number | null } {
  const clean = text.replace(/^\uFEFF/, '');
  let line = 1;
  const all = dsvFormat(separator)
    .parseRows(clean)
    .map((cells): Row => {
      const row = { line, cells: cells.map((cell) => cell.replace(/^'(?='*[=+@-])/, '')) };
      line += 1 + cells.reduce((sum, cell) => sum + (cell.match(/\r\n|\r|\n/g)?.length ?? 0), 0);
      return row;
    });
  const rows = all.filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  const last = rows[rows.length - 1];
  // What is not closed swallows the rest of the file: there is an odd mark, and the last row has too few cells.
  const odd = (clean.match(/"/g)?.length ?? 0) % 2 === 1;
  const short = last && (rows.length === 1 || last.cells.length !== rows[0].cells.length);
  return { rows, unclosed: odd && short ? last.line : null };
}

/** A row as it is written; {@link readRows} gives the same cells back. */
export function writeRow(cells: readonly (string | number)[], separator = ','): string {
  return dsvFormat(separator).formatRow(cells.map((cell) => csvSafe(String(cell))));
}

/** What begins like a formula is none in a table: a mark goes before it. Numbers stay as they are. */
export function csvSafe(cell: string): string {
  return /^'*[=+@-]/.test(cell) && !Number.isFinite(Number(cell)) ? `'${cell}` : cell;
}
