/**
 * The cheapest way to give each row a column of its own, where there are no more rows than columns. Shortest augmenting
 * paths with potentials (Jonker and Volgenant, 1987): O(n³), so for small cases.
 * @param cost of a row with a column; finite
 * @returns the column of each row
 */
export function cheapestAssignment(
  rows: number,
  columns: number,
  cost: (row: number, column: number) => number,
): Int32Array {
  if (rows > columns) throw new RangeError('cheapestAssignment: more rows than columns');
  const rowPotential = new Float64Array(rows + 1);
  const columnPotential = new Float64Array(columns + 1);
  // Rows and columns count from 1 here; column 0 stands for the row that is being placed.
  const rowOf = new Int32Array(columns + 1);
  const before = new Int32Array(columns + 1);
  for (let row = 1; row <= rows; row++) {
    rowOf[0] = row;
    let column = 0;
    const least = new Float64Array(columns + 1).fill(Infinity);
    const isDone = new Uint8Array(columns + 1);
    do {
      isDone[column] = 1;
      const at = rowOf[column] ?? 0;
      let [step, next] = [Infinity, 0];
      for (let other = 1; other <= columns; other++) {
        if (isDone[other]) continue;
        const reduced = cost(at - 1, other - 1) - (rowPotential[at] ?? 0) - (columnPotential[other] ?? 0);
        if (reduced < (least[other] ?? 0)) {
          least[other] = reduced;
          before[other] = column;
        }
        if ((least[other] ?? 0) < step) [step, next] = [least[other] ?? 0, other];
      }
      for (let other = 0; other <= columns; other++) {
        if (isDone[other]) {
          const of = rowOf[other] ?? 0;
          rowPotential[of] = (rowPotential[of] ?? 0) + step;
          columnPotential[other] = (columnPotential[other] ?? 0) - step;
        } else least[other] = (least[other] ?? 0) - step;
      }
      column = next;
    } while ((rowOf[column] ?? 0) !== 0);
    for (let at = column; at !== 0;) {
      const previous = before[at] ?? 0;
      rowOf[at] = rowOf[previous] ?? 0;
      at = previous;
    }
  }
  const result = new Int32Array(rows);
  for (let column = 1; column <= columns; column++) {
    const row = rowOf[column] ?? 0;
    if (row > 0) result[row - 1] = column - 1;
  }
  return result;
}
