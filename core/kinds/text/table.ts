/** Rows of cells under names of columns. */
export interface Table {
  columns: string[];
  rows: string[][];
  /** Whether the first row gave the columns their names; else they are numbered. */
  isNamed: boolean;
}

/** Of longer texts the beginning tells what parts the values. */
const headLength = 65_536;

/** Rows of values with commas, semicolons or tabs between them (RFC 4180), but for empty ones. */
export async function rowsOf(text: string): Promise<string[][]> {
  const { papa } = await import('./structured.ts');
  const bare = text.replace(/^\ufeff/, '');
  // Told apart by the first rows: looking for it in the whole took a quarter of the time, and so did asking each row anew.
  const { meta } = papa.parse(bare.slice(0, headLength), { skipEmptyLines: 'greedy', preview: 10 });
  const { data } = papa.parse<string[]>(bare, { delimiter: meta.delimiter });
  return data.filter((row) => row.some((cell) => cell.trim() !== ''));
}

/** A text of values with commas, semicolons or tabs between them, and what its columns are called. */
export async function tableOf(text: string): Promise<Table> {
  const data = await rowsOf(text);
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
