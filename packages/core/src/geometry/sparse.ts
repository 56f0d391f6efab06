/** Rows of a matrix most of whose elements are 0: row i has the elements `begins[i]` up to but without `begins[i + 1]`. */
export interface Sparse {
  readonly rows: number;
  readonly begins: Int32Array;
  readonly columns: Int32Array;
  readonly values: Float64Array;
}

/** A sparse matrix of rows of (column, value). */
export function sparseOf(rows: readonly ReadonlyMap<number, number>[]): Sparse {
  const begins = new Int32Array(rows.length + 1);
  rows.forEach((row, i) => (begins[i + 1] = begins[i] + row.size));
  const columns = new Int32Array(begins[rows.length]);
  const values = new Float64Array(begins[rows.length]);
  let k = 0;
  for (const row of rows) {
    for (const [column, value] of row) {
      columns[k] = column;
      values[k++] = value;
    }
  }
  return { rows: rows.length, begins, columns, values };
}

/** The matrix times points, x and y of each; written to `out`. Cost: two multiply-adds an element. */
export function timesPoints(
  { rows, begins, columns, values }: Sparse,
  points: Float64Array,
  out: Float64Array,
): void {
  for (let i = 0; i < rows; i++) {
    let [x, y] = [0, 0];
    for (let k = begins[i]; k < begins[i + 1]; k++) {
      const c = 2 * columns[k];
      x += values[k] * points[c];
      y += values[k] * points[c + 1];
    }
    out[2 * i] = x;
    out[2 * i + 1] = y;
  }
}

/** Rows that are weighted sums of others: what a second step makes of a first one. */
export function combined(
  then: readonly ReadonlyMap<number, number>[],
  first: readonly ReadonlyMap<number, number>[],
): Map<number, number>[] {
  return then.map((row) => {
    const out = new Map<number, number>();
    for (const [i, a] of row) for (const [j, b] of first[i]) out.set(j, (out.get(j) ?? 0) + a * b);
    return out;
  });
}
