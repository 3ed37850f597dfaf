import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join, resolve } from 'node:path';
import { formatOf } from '../core/kinds/formats.ts';
import { identify } from '../core/kinds/identify.ts';
import type { Facts } from '../contract/facts.ts';
import { ReaderPool } from '../server/decode/reader-pool.ts';
import { ReaderProcesses } from '../server/decode/reader-processes.ts';
import { sheetTextsOf } from './format-sheets-command.ts';
import { readSheet } from './format-command.ts';
import { sisterMaker } from '../server/hauls/put-back/make-sister.ts';
import { openSheets } from '../server/ingest/read-by-sheet.ts';
import { putBack, reportText } from '../server/hauls/put-back/put-back.ts';

export interface PutBackOptions {
  with: string;
  out: string;
  sheet?: string[];
  /** Whose sheets are tried, too. */
  title?: string;
  sisters?: boolean;
  data?: string;
  json?: boolean;
}

/** Puts changed files into a copy of a folder, a ZIP, a TAR, or a container that a sheet describes. */
export async function putBackCommand(
  source: string,
  { with: folder, out, sheet = [], title, sisters, data, json }: PutBackOptions,
): Promise<void> {
  const processes = new ReaderProcesses(0);
  const readers = new ReaderPool(processes, { readers: 1 });
  const work = mkdtempSync(join(tmpdir(), 'worvel-put-back-'));
  let count = 0;
  const lookAt = async (bytes: Buffer, name: string): Promise<string | null> => {
    const { format } = identify(bytes.subarray(0, 1024), name);
    if (formatOf(format).kind === 'other') return null;
    const file = join(work, String(count++));
    writeFileSync(file, bytes);
    const content = { hash: '', size: bytes.length, file, offset: 0 };
    const { facts } = await readers.run(
      { type: 'facts', content: { path: name, format, content } },
      async () => null,
    );
    return facts && wordsOf(facts);
  };
  try {
    const kept = title === undefined ? [] : openSheets(await sheetTextsOf(title, data));
    const report = await putBack(resolve(source), resolve(folder), resolve(out), {
      lookAt,
      // One that is named is meant for the file, whatever that is called.
      sheets: [
        ...sheet.map((file) => readSheet(file).open),
        ...kept.filter(({ isFor }) => isFor(basename(source))),
      ],
      ...(sisters && { makeSister: sisterMaker(readers, work) }),
    });
    process.stdout.write(json ? `${JSON.stringify(report)}\n` : `${reportText(report)}\n`);
  } finally {
    readers.close();
    processes.close();
    rmSync(work, { recursive: true, force: true });
  }
}

/** What a game counts on, in words; nothing where it is of a kind that it takes as it comes. */
function wordsOf(facts: Facts): string {
  switch (facts.kind) {
    case 'picture':
      return `${facts.width} × ${facts.height} pixels of ${facts.encoding} with ${facts.levels} mip levels`;
    case 'model':
      return `a model with ${facts.bones} bones, ${facts.materials} materials and ${facts.uvSets} UV sets`;
    case 'sound':
      return `a sound of ${facts.channels} channels at ${facts.sampleRate} Hz with ${facts.loops.length} loops`;
    default:
      return '';
  }
}
