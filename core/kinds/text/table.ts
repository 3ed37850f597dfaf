/** Rows of cells under names of columns. */
export interface Table {
  columns: string[];
  rows: string[][];
  /** Whether the first row gave the columns their names; else they are numbered. */
  isNamed: boolean;
}

/** A text of values with commas, semicolons or tabs between them (RFC 4180). */
export async function tableOf(text: string): Promise<Table> {
  const { papa } = await import('./structured.ts');
  const { data } = papa.parse<string[]>(text.replace(/^\ufeff/, ''), { skipEmptyLines: 'greedy' });
  const [first = [], ...rest] = data;
  const isNamed = areNames(first);
  const rows = isNamed ? rest : data;
  const width = data.reduce((widest, row) => Math.max(widest, row.length), 0);
  const columns = Array.from({ length: width }, (_, at) =>
    isNamed && (first[at] ?? '') !== '' ? (first[at] ?? '') : `column ${at + 1}`,
  );
  return { columns, rows, isNamed };
}

/** Names are words, each another one: a number, or nothing, is a value. */
function areNames(row: readonly string[]): boolean {
  const names = row.map((cell) => cell.trim());
  return (
    new Set(names).size === names.length &&
    names.every((name) => name !== '' && Number.isNaN(Number(name.replace(',', '.'))))
  );
}
