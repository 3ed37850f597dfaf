import * as z from 'zod';
import {
  sheetFitSchema,
  sheetsStateSchema,
  type SheetFit,
  type SheetsState,
} from '../contract/kept-sheets.ts';
import { fitCounts, joinFits } from '../core/formats/fit.ts';
import { jobSchema } from '../contract/work.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { dataPath, getJson, withApplication, type Connection } from './connection.ts';
import { findChannel, findTitle } from './find-title.ts';
import { readSheet } from './format-command.ts';
import type { CommonOptions } from './options.ts';
import { printReport } from './print-report.ts';
import { clearProgress, showProgress } from './progress.ts';

export interface SheetOptions extends CommonOptions {
  title: string;
  json?: boolean;
}

export interface FitOptions extends SheetOptions {
  build: string;
  channel: string;
}

/** Keeps a sheet with a title, in place of one of the same name, and reads what it describes. */
export async function importSheetCommand(
  file: string,
  { title, data, json = false }: SheetOptions,
): Promise<void> {
  // Its lines are named before anything else is begun.
  const { open, text } = readSheet(file);
  const name = open.sheet.sheet;
  const report = await changeSheets(data, title, ({ sheets }) => {
    const at = sheets.findIndex((kept) => kept.name === name);
    const next = sheets.map((kept) => ({ text: kept.text }));
    next.splice(at < 0 ? next.length : at, at < 0 ? 0 : 1, { text });
    return next;
  });
  printReport(report, json);
}

/** Takes a sheet away: what it read is what its bytes say again. */
export async function removeSheetCommand(
  name: string,
  { title, data, json = false }: SheetOptions,
): Promise<void> {
  const report = await changeSheets(data, title, (state) => {
    found(state, name, title);
    return state.sheets.filter((sheet) => sheet.name !== name).map(({ text }) => ({ text }));
  });
  printReport(report, json);
}

/** Writes a sheet to standard output, as it was written. */
export async function exportSheetCommand(name: string, { title, data }: SheetOptions): Promise<void> {
  const state = await withApplication(dataPath(data), async (application) =>
    sheetsOf(application, (await findTitle(application, title)).id),
  );
  process.stdout.write(found(state, name, title).text);
}

export async function listSheetsCommand({ title, data, json }: SheetOptions): Promise<void> {
  const { sheets } = await withApplication(dataPath(data), async (application) =>
    sheetsOf(application, (await findTitle(application, title)).id),
  );
  if (json) process.stdout.write(`${JSON.stringify(sheets.map(({ name }) => name))}\n`);
  else if (sheets.length === 0) process.stdout.write(`${title} has no format sheets.\n`);
  else for (const { name } of sheets) process.stdout.write(`${name}\n`);
}

/** Texts of the sheets that a title keeps. */
export function sheetTextsOf(title: string, data: string | undefined): Promise<string[]> {
  return withApplication(dataPath(data), async (application) => {
    const { sheets } = await sheetsOf(application, (await findTitle(application, title)).id);
    return sheets.map(({ text }) => text);
  });
}

/** Tries a sheet on all files of a build that its patterns find. Ends with 1 where one does not fit. */
export async function fitSheetCommand(
  file: string,
  { title, build, channel, data, json }: FitOptions,
): Promise<void> {
  const { text } = readSheet(file);
  const fit = await withApplication(dataPath(data), async (application) => {
    const { id } = findChannel(await findTitle(application, title), channel);
    let all: SheetFit | null = null;
    for (let from: number | null = 0; from !== null; from = all.next) {
      const body = { channel: id, build, text, from };
      all = joinFits(all, sheetFitSchema.parse(await getJson(application, 'format-sheets/fit', { body })));
    }
    return all as SheetFit;
  });
  const count = (number: number): string => number.toLocaleString('en');
  const { fitting } = fitCounts(fit);
  if (json) process.stdout.write(`${JSON.stringify(fit)}\n`);
  else {
    const print = (line: string): void => void process.stdout.write(`${line}\n`);
    if (fit.files === 0) print('No file of this build is meant by the sheet.');
    for (const { version, files } of fit.versions)
      print(
        `${version === '' ? 'The sheet' : `Version ${version}`} fits ${count(files)} of ${count(fit.files)}.`,
      );
    if (fit.files > 0 && fitting === 0) print(`None of ${count(fit.files)} files fits.`);
    for (const { reason, files, paths } of fit.failures) {
      print(`${count(files)} do not fit: ${reason}`);
      for (const path of paths.slice(0, 5)) print(`  ${path}`);
    }
    if (fit.left > 0) print(`${count(fit.left)} were not tried.`);
  }
  if (fitting < fit.files) process.exitCode = 1;
}

export interface VersionOptions extends FitOptions {
  use?: string;
  newest?: boolean;
}

/** Says which version of a sheet a build's files are tried with first, and has them read again; without one it tells which. */
export async function sheetVersionCommand(
  name: string,
  { title, build, channel, data, json = false, use, newest = false }: VersionOptions,
): Promise<void> {
  if (use !== undefined && newest) throw new PlainError('Say either --use or --newest.');
  await withApplication(dataPath(data), async (application) => {
    const { id } = await findTitle(application, title);
    found(await sheetsOf(application, id), name, title);
    const { builds } = findChannel(await findTitle(application, title), channel);
    const placed = builds.find(({ label }) => label === build);
    if (!placed) throw new PlainError(`There is no build labelled ${build} in this channel.`);
    if (use === undefined && !newest) {
      const version = placed.settings.formatVersions[name] ?? null;
      process.stdout.write(
        json
          ? `${JSON.stringify({ version })}\n`
          : `${version === null ? 'the newest that fits' : version}\n`,
      );
      return;
    }
    const body = { sheet: name, version: use ?? null };
    const { job } = z
      .object({ job: jobSchema.shape.id })
      .parse(await getJson(application, `builds/${placed.id}/format-version`, { method: 'PUT', body }));
    const { report } = await application.follow(
      jobSchema.parse(await getJson(application, `work/${job}`)),
      showProgress,
    );
    clearProgress();
    printReport(report, json);
  });
}

function found({ sheets }: SheetsState, name: string, title: string): SheetsState['sheets'][number] {
  const sheet = sheets.find((candidate) => candidate.name === name);
  if (sheet) return sheet;
  const names = sheets.map((candidate) => candidate.name).join(', ');
  throw new PlainError(
    `${title} has no format sheet named ${name}${names === '' ? '' : `: it has ${names}`}.`,
  );
}

async function sheetsOf(application: Connection, titleId: number): Promise<SheetsState> {
  return sheetsStateSchema.parse(await getJson(application, `titles/${titleId}/format-sheets`));
}

/** Saves other sheets, and sees what they describe read. */
async function changeSheets(
  data: string | undefined,
  title: string,
  change: (state: SheetsState) => { text: string }[],
): Promise<Parameters<typeof printReport>[0]> {
  return withApplication(dataPath(data), async (application) => {
    const { id } = await findTitle(application, title);
    const state = await sheetsOf(application, id);
    const { job } = sheetsStateSchema.extend({ job: jobSchema.shape.id }).parse(
      await getJson(application, `titles/${id}/format-sheets`, {
        method: 'PUT',
        body: { sheets: change(state), revision: state.revision },
      }),
    );
    const begun = jobSchema.parse(await getJson(application, `work/${job}`));
    const { report } = await application.follow(begun, showProgress);
    clearProgress();
    return report;
  });
}
