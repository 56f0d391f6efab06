/**
 * The cells of a line, double quotes as in RFC 4180.
 *
 * @returns null when a quotation mark is not closed
 */
export function splitCsvLine(line: string, separator = ','): string[] | null {
  const cells: string[] = [];
  let cell = '';
  let inQuotes = false;
  for (let i = 0; i < line.length; i++) {
    const c = line[i];
    if (inQuotes) {
      if (c !== '"') cell += c;
      else if (line[i + 1] === '"') cell += line[++i];
      else inQuotes = false;
    } else if (c === '"' && cell === '') inQuotes = true;
    else if (c === separator) {
      cells.push(cell);
      cell = '';
    } else cell += c;
  }
  return inQuotes ? null : [...cells, cell];
}
