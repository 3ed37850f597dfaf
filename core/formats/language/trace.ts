import type { Value } from './values.ts';

/** A field as it was read: where it lies, and what it is. */
export interface Mark {
  /** A number where it is one of a list. */
  name: string | number;
  /** Its bytes; of a text file its lines, from 1. */
  begin: number;
  end: number;
  /** Whether these are places in the file itself, and not in what was unpacked of it. */
  isFile: boolean;
  /** Whether it lies elsewhere than behind the field before it. */
  isPlaced: boolean;
  /** Undefined where its reading failed. */
  value: Value | undefined;
  parent: Mark | null;
  fields: readonly Mark[];
}

/** More are not kept: nobody looks at them, and they take memory. */
const mostMarks = 200_000;

/** Notes where each field of a file was read, for people who look at its bytes. */
export class Trace {
  root: Mark = markOf('', null, 0, true);
  /** Of a text: its lines, as fields of one that is all of it. */
  lines: Mark = { ...this.root, fields: [] };
  private current = this.root;
  private count = 0;
  /** Fields within the current one that are not kept. */
  private left = 0;
  /** Whether some were not kept. */
  isCut = false;

  /** Before a file is read, and read again. */
  reset(): void {
    this.root = markOf('', null, 0, true);
    this.lines = { ...this.root, fields: [] };
    this.current = this.root;
    [this.count, this.left, this.isCut] = [0, 0, false];
  }

  enter(name: string | number, at: number, isFile: boolean): void {
    if (this.left > 0 || this.count >= mostMarks) {
      this.left++;
      this.isCut = true;
      return;
    }
    this.count++;
    const mark = markOf(name, this.current, at, isFile);
    const { current } = this;
    if (current.fields === none) current.fields = [mark];
    else (current.fields as Mark[]).push(mark);
    this.current = mark;
  }

  /** The field that was entered last lies elsewhere than the reading was. */
  moved(begin: number, end: number, isFile: boolean): void {
    if (this.left === 0) Object.assign(this.current, { begin, end, isFile, isPlaced: true });
  }

  /** A structure is known before all of its fields are. */
  holds(value: Value): void {
    if (this.left === 0) this.current.value = value;
  }

  leave(at: number, value: Value): void {
    if (this.left > 0) {
      this.left--;
      return;
    }
    const { current } = this;
    if (!current.isPlaced) current.end = at;
    current.value = value;
    this.current = current.parent ?? this.root;
  }

  /** A line of a text, which a rule took: these are beside the fields, which gather many of them. */
  line(name: string, number: number): void {
    if (this.count++ >= mostMarks) this.isCut = true;
    else
      (this.lines.fields as Mark[]).push({
        ...markOf(name, null, number, true),
        end: number + 1,
        value: null,
      });
  }
}

/** Most fields have none within them. */
const none: readonly Mark[] = [];

/** Written out, since millions are made: each part that is spread takes as long as all of it. */
function markOf(name: string | number, parent: Mark | null, at: number, isFile: boolean): Mark {
  return {
    name,
    begin: at,
    end: at,
    isFile,
    isPlaced: false,
    value: undefined,
    parent,
    fields: none,
  };
}
