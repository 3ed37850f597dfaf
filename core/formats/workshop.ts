import papa from 'papaparse';
import type { Placement } from '../../contract/facts.ts';
import { fieldsWithin, gapsOf, runsIn, type FieldPath, type Run, type ShownField } from './field-tree.ts';
import type { Limits } from './language/budget.ts';
import { SheetError } from './language/sheet-error.ts';
import { decoderOf } from './language/texts.ts';
import { Trace } from './language/trace.ts';
import { openSheet, type OpenSheet, type SheetProblem } from './open-sheet.ts';
import { outcomeOf } from './outcome.ts';
import { placeInSheet } from './place-in-sheet.ts';
import { readFields, type FileToRead } from './read-by-sheet.ts';
import { versionsFrom } from './try-sheet.ts';

/** What came of a sheet and a file, but for the fields themselves. */
export interface Outcome {
  /** What is wrong with the sheet; empty where it can be used. */
  problems: SheetProblem[];
  /** Which version is looked at: the one that fits, or the first that was tried. */
  version: string;
  versions: readonly string[];
  isText: boolean;
  /** Where the file does not fit, and the line of the sheet that says the field. */
  misfit: { message: string; at: number | null; where: string; line: number | null } | null;
  /** What comes out of it, in a few words. */
  says: string;
  /** What comes out, where it can be looked at; null where only fields are read. */
  kind: 'picture' | 'sound' | 'model' | 'entries' | 'table' | 'placements' | null;
  /** The first entries, placements or lines of the table. */
  rows: Rows | null;
  /** Bytes that no field explains: how many in all, and where the first lie. */
  gaps: { bytes: number; first: { begin: number; end: number }[] };
  milliseconds: number;
}

interface Rows {
  columns: string[];
  rows: string[][];
  /** How many there are in all. */
  count: number;
}

const shownRows = 200;
const shownGaps = 200;
const mostLines = 200_000;
const mostTextBytes = 4 * 1024 * 1024;
const limits: Limits = { steps: 30_000_000, bytes: 384 * 1024 * 1024, depth: 64, milliseconds: 2000 };

/** Tries a sheet on a file again and again while somebody writes it, and tells what lies where. */
export class Workshop {
  private readonly file: FileToRead;
  private trace = new Trace();
  private open: OpenSheet | null = null;

  constructor(file: FileToRead) {
    this.file = file;
  }

  /** @param meant the version to be looked at; null for the newest that fits */
  async tried(text: string, meant: string | null): Promise<Outcome> {
    const begin = Date.now();
    const opened = openSheet(text);
    if ('problems' in opened) return { ...nothing, problems: opened.problems };
    const open = opened.sheet;
    this.open = open;
    const versions = meant !== null && open.versions.includes(meant) ? [meant] : versionsFrom(open, null);
    let first: Trial | null = null;
    let fitting: Trial | null = null;
    for (const version of versions) {
      const trial = await this.tryVersion(open, version);
      first ??= trial;
      if (trial.misfit) continue;
      fitting = trial;
      break;
    }
    const looked = fitting ?? first;
    if (!looked) return nothing;
    this.trace = looked.trace;
    const { misfit } = looked;
    const isText = open.sheet.text !== undefined;
    const gaps = isText ? [] : gapsOf(this.trace, this.file.bytes.length);
    return {
      ...{ problems: [], version: looked.version, versions: open.versions, isText },
      misfit: misfit && {
        ...{ message: misfit.message, at: misfit.at, where: misfit.where },
        line: placeInSheet(text, misfit.where),
      },
      ...{ says: looked.says, kind: kindOf(open), rows: looked.rows },
      gaps: {
        bytes: gaps.reduce((sum, gap) => sum + gap.end - gap.begin, 0),
        first: gaps.slice(0, shownGaps),
      },
      milliseconds: Date.now() - begin,
    };
  }

  fields(path: FieldPath, from: number, limit: number): { fields: ShownField[]; count: number } {
    return fieldsWithin(this.trace, path, from, limit);
  }

  runs(begin: number, end: number): Run[] {
    if (!this.open) return [];
    const { root, lines } = this.trace;
    const { text } = this.open.sheet;
    return runsIn({ root: text ? lines : root }, begin, end, text ? mostLines : undefined);
  }

  /** Of a text its beginning, and which rule took each line. */
  lines(): { text: string; runs: Run[] } {
    const encoding = this.open?.sheet.text?.encoding ?? 'utf-8';
    const text = decoderOf(encoding).decode(this.file.bytes.subarray(0, mostTextBytes));
    return { text: text.replace(/^\ufeff/, ''), runs: this.runs(0, Number.MAX_SAFE_INTEGER) };
  }

  private async tryVersion(open: OpenSheet, version: string): Promise<Trial> {
    const trace = new Trace();
    try {
      const made = await readFields(
        open,
        version,
        this.file,
        (root) => ({ says: outcomeOf(open, root), rows: rowsOf(open, root) }),
        limits,
        trace,
      );
      return { version, trace, misfit: null, ...made };
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      return { version, trace, misfit: error, says: '', rows: null };
    }
  }
}

interface Trial {
  version: string;
  trace: Trace;
  misfit: SheetError | null;
  says: string;
  rows: Rows | null;
}

const nothing: Outcome = {
  ...{
    problems: [],
    version: '',
    versions: [],
    isText: false,
    misfit: null,
    says: '',
    kind: null,
    rows: null,
  },
  ...{ gaps: { bytes: 0, first: [] }, milliseconds: 0 },
};

function kindOf({ sheet: { result } }: OpenSheet): Outcome['kind'] {
  const kinds = ['picture', 'sound', 'model', 'entries', 'table', 'placements'] as const;
  return kinds.find((kind) => result[kind] !== undefined) ?? null;
}

function rowsOf({ result }: OpenSheet, root: Parameters<typeof outcomeOf>[1]): Rows | null {
  const { entries, placements, table } = result;
  if (entries) {
    const all = entries(root);
    const rows = all
      .slice(0, shownRows)
      .map(({ name, offset, packedSize }) => [
        name,
        offset === null ? '' : offset.toLocaleString('en'),
        packedSize.toLocaleString('en'),
      ]);
    return { columns: ['Name', 'At byte', 'Packed bytes'], rows, count: all.length };
  }
  if (placements) {
    const all = placements(root);
    return {
      columns: ['Model', 'Name', 'Position'],
      rows: all.slice(0, shownRows).map(placementRow),
      count: all.length,
    };
  }
  if (!table) return null;
  const [columns = [], ...rows] = papa.parse<string[]>(new TextDecoder().decode(table(root)).trimEnd()).data;
  return { columns, rows: rows.slice(0, shownRows), count: rows.length };
}

function placementRow({ model, name, position }: Placement): string[] {
  return [model, name, position.map((metres) => Number(metres.toFixed(3))).join(' ')];
}
