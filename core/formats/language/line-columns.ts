import type { Budget } from './budget.ts';
import { Table, type Struct, type TableColumn } from './values.ts';
import type { ReadWords } from './words.ts';

interface Growing {
  numbers: Float64Array;
  length: number;
  texts: string[] | null;
  ends: number[] | null;
}

/** Lines of one kind, gathered column by column. */
export class LineColumns {
  private readonly columns = new Map<string, Growing>();
  private readonly budget: Budget;
  private count = 0;

  constructor(budget: Budget) {
    this.budget = budget;
  }

  /** @param line its number, from 1 @throws SheetError */
  add(read: ReadWords, words: readonly string[], line: number): void {
    this.put('line', line);
    read(words, (name, value) => this.put(name, value));
    this.count++;
  }

  private put(name: string, value: number | string | Float64Array | string[]): void {
    let column = this.columns.get(name);
    if (!column) {
      const isText = typeof value === 'string' || Array.isArray(value);
      const isList = typeof value === 'object';
      column = {
        ...{ numbers: new Float64Array(isText ? 0 : 16), length: 0 },
        ...{ texts: isText ? [] : null, ends: isList ? [] : null },
      };
      this.columns.set(name, column);
    }
    if (typeof value === 'number') this.append(column, value);
    else if (typeof value === 'string') this.text(column, value);
    else if (Array.isArray(value)) for (const text of value) this.text(column, text);
    else for (const number of value) this.append(column, number);
    column.ends?.push(column.length);
  }

  private text(column: Growing, text: string): void {
    this.budget.allocate(16 + text.length * 2);
    column.texts?.push(text);
    column.length++;
  }

  private append(column: Growing, number: number): void {
    if (column.length === column.numbers.length) {
      this.budget.allocate(column.length * 16);
      const grown = new Float64Array(column.length * 2);
      grown.set(column.numbers);
      column.numbers = grown;
    }
    column.numbers[column.length++] = number;
  }

  finish(parent: Struct): Table {
    const columns = new Map<string, TableColumn>();
    for (const [name, { numbers, length, texts, ends }] of this.columns)
      columns.set(name, {
        values: texts ?? numbers.subarray(0, length),
        ends: ends ? Float64Array.from(ends) : undefined,
      });
    return new Table(parent, this.count, columns);
  }
}
