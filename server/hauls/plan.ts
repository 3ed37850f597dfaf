import { setImmediate } from 'node:timers/promises';
import type { Arrangement } from '../../contract/arrangements.ts';
import type { HaulSettings } from '../../contract/haul-settings.ts';
import type { HaulPlan, PlannedFile, WornPicture } from '../../contract/hauls.ts';
import { asItLay } from '../../contract/haul-settings.ts';
import type { Facts } from '../../contract/facts.ts';
import { withoutLanguage } from '../../core/kinds/text/language.ts';
import { Targets } from '../../core/hauls/targets.ts';
import { endingsToWrite, formatToWrite, lossesOf } from '../../core/kinds/write.ts';
import { findTitleOf } from '../acquire/builds/builds.ts';
import { listArrangementsOf } from '../library/arrangements/arrangements.ts';
import { factsKey, findFacts } from '../library/assets/facts.ts';
import type { GatheredAsset } from '../library/gather-answers.ts';
import type { Library } from '../library/library.ts';
import type { Queryable } from '../platform/database/rows.ts';
import { NotFoundError } from '../platform/plain-error.ts';

/** A file of a plan with what its writing needs. */
export interface PlannedWriting extends PlannedFile {
  stem: string;
  endings: string[];
  space: 'sRGB' | 'linear' | null;
  isNormal: boolean;
  worn: WornPicture[];
  family: string;
  /** Of a model: others of its family that go into the same file; of a text: the same in other languages. */
  together: { path: string; hash: string }[];
  /** Of a model: how somebody has set it up, with paths of the build. */
  arrangement: Pick<Arrangement, 'name' | 'setUp'> | null;
}

export interface WholePlan {
  writings: PlannedWriting[];
  missing: HaulPlan['missing'];
  refused: HaulPlan['refused'];
}

/** How much of a second a file takes, by what is done with it: measured on two cores with what the demo has. */
const secondsOf: Readonly<Record<string, number>> = { picture: 0.06, model: 0.09, sound: 0.12 };
const usualSeconds = 0.02;
const placedAtOnce = 500;

/**
 * What will come out when assets of builds are taken out: every file with its name, what its format cannot hold, and what is missing.
 * Nothing is opened for it: facts and names tell.
 * @param chosen paths with the builds that they are of
 */
export async function planHaul(
  { pool, library }: { pool: Queryable; library: Pick<Library, 'get'> },
  channelId: number,
  chosen: readonly { path: string; build: string }[],
  settings: HaulSettings,
  arrangements: readonly Arrangement[] | null = null,
): Promise<WholePlan> {
  const byBuild = new Map<string, string[]>();
  for (const { path, build } of chosen) byBuild.set(build, [...(byBuild.get(build) ?? []), path]);
  const titleId = await findTitleOf(pool, channelId);
  const whole: WholePlan = { writings: [], missing: [], refused: [] };
  const found: { build: string; asset: GatheredAsset }[] = [];
  for (const [build, paths] of byBuild) {
    const gathered = await library
      .get('gather', channelId, build, { paths, settings, titleId })
      .catch((error: unknown) => {
        // A build that was removed since takes its own assets with it, and no others.
        if (!(error instanceof NotFoundError)) throw error;
        whole.refused.push(...paths.map((path) => ({ path, reason: `there is no build ${build} any more` })));
        return null;
      });
    if (!gathered) continue;
    whole.missing.push(...gathered.missing);
    whole.refused.push(...gathered.refused);
    found.push(...gathered.assets.map((asset) => ({ build, asset })));
  }
  const targets = new Targets(settings.folders);
  for (let from = 0; from < found.length; from += placedAtOnce) {
    for (const { asset } of found.slice(from, from + placedAtOnce)) targets.reserve(asset);
    await setImmediate();
  }
  for (let from = 0; from < found.length; from += placedAtOnce) {
    const part = found.slice(from, from + placedAtOnce);
    const facts = await findFacts(
      pool,
      part.map(({ asset }) => asset),
    );
    for (const { build, asset } of part) {
      const known = facts.get(factsKey(asset.hash, asset.format))?.facts ?? null;
      whole.writings.push(planOf(asset, build, known, settings, targets));
    }
    // Others are answered in between.
    await setImmediate();
  }
  if (settings.along.arrangements)
    await addArrangements(pool, titleId, whole.writings, targets, arrangements);
  if (settings.mend.together === 'families in one') whole.writings = familiesInOne(whole.writings);
  if (settings.texts.languages === 'side by side') whole.writings = languagesInOne(whole.writings, targets);
  return whole;
}

/** Files of their own for models as people have set them up. @param said instead of those that are kept */
async function addArrangements(
  pool: Queryable,
  titleId: number,
  writings: PlannedWriting[],
  targets: Targets,
  said: readonly Arrangement[] | null,
): Promise<void> {
  const models = writings.filter(({ kind, format }) => kind === 'model' && format !== asItLay);
  const known =
    said ??
    (await listArrangementsOf(
      pool,
      titleId,
      models.map(({ path }) => path),
    ));
  const byPath = new Map<string, Arrangement[]>();
  for (const one of known) byPath.set(one.path, [...(byPath.get(one.path) ?? []), one]);
  for (const model of models)
    for (const { name, setUp } of byPath.get(model.path) ?? []) {
      const { path, family, endings } = model;
      const own = path.replace(/(\.[^./]*)?$/, ` ${name.replaceAll('/', '-')}$1`);
      const { stem, insteadOf } = targets.place({ path: own, family, endings });
      writings.push({
        ...model,
        ...{ stem, insteadOf, target: `${stem}${endings[0] ?? ''}`, arrangement: { name, setUp } },
        why: `set up as “${name}”`,
        together: [],
      });
    }
}

/** One file of all models of a family that are taken out of a build: the first one has the others with it. */
function familiesInOne(writings: readonly PlannedWriting[]): PlannedWriting[] {
  const first = new Map<string, PlannedWriting>();
  return writings.flatMap((writing) => {
    if (writing.kind !== 'model' || writing.format === asItLay || writing.arrangement) return [writing];
    const key = `${writing.build}\n${writing.family}`;
    const one = first.get(key);
    if (!one) {
      first.set(key, writing);
      return [writing];
    }
    one.together.push({ path: writing.path, hash: writing.hash });
    one.worn.push(...writing.worn);
    one.losses = [...new Set([...one.losses, ...writing.losses])];
    one.sourceBytes += writing.sourceBytes;
    one.bytes += writing.bytes;
    return [];
  });
}

/** One file of the same texts in all languages that are taken out of a build, called as they are but for the language. */
function languagesInOne(writings: readonly PlannedWriting[], targets: Targets): PlannedWriting[] {
  const first = new Map<string, PlannedWriting>();
  return writings.flatMap((writing) => {
    const { kind, format, path, build, from } = writing;
    const shared = kind === 'text' && (format === 'json' || format === 'csv') ? withoutLanguage(path) : null;
    if (shared === null) return [writing];
    const key = `${build}\n${from}\n${shared.toLowerCase()}`;
    const one = first.get(key);
    if (!one) {
      first.set(key, writing);
      return [writing];
    }
    if (one.together.length === 0) {
      const { stem, insteadOf } = targets.place({ path: shared, family: one.family, endings: one.endings });
      Object.assign(one, { stem, insteadOf, target: `${stem}${one.endings[0] ?? ''}` });
    }
    one.together.push({ path, hash: writing.hash });
    one.sourceBytes += writing.sourceBytes;
    one.bytes += writing.bytes;
    return [];
  });
}

function planOf(
  asset: GatheredAsset,
  build: string,
  facts: Facts | null,
  settings: HaulSettings,
  targets: Targets,
): PlannedWriting {
  const { path, hash, format: from, sizeBytes, why, family, space, isNormal, worn } = asset;
  // A model's format may hold clips alone.
  const kind = facts?.kind === 'clip' ? 'clip' : asset.kind;
  const format = formatToWrite({ kind, format: from, facts, isNormal }, settings);
  const isKept = format === asItLay;
  const endings = isKept ? [''] : endingsToWrite(format, facts, settings);
  const { stem, insteadOf } = targets.place({ path, family, endings });
  return {
    target: `${stem}${endings[0] ?? ''}`,
    ...{
      format,
      path,
      build,
      hash,
      kind,
      from,
      why,
      insteadOf,
      stem,
      endings,
      space,
      isNormal,
      worn,
      family,
    },
    ...{ together: [], arrangement: null },
    sourceBytes: sizeBytes,
    bytes: isKept ? sizeBytes : estimate(facts, format, sizeBytes),
    losses: isKept ? [] : lossesOf(facts, from, settings),
  };
}

/** What a file may come to, from what such files came to: a guess, and told as one. */
function estimate(facts: Facts | null, format: string, sourceBytes: number): number {
  if (facts?.kind === 'picture') {
    const pixels = facts.width * facts.height * facts.layers * facts.faces * facts.frames;
    const share: Readonly<Record<string, number>> = { png: 1.6, tga: 4, webp: 1.1, jpeg: 0.4, exr: 6 };
    return Math.round(pixels * (share[format] ?? 2)) + 200;
  }
  if (facts?.kind === 'model') {
    const perTriangle: Readonly<Record<string, number>> = { stl: 50, obj: 90, ply: 30, '3mf': 25 };
    const factor = perTriangle[format];
    return factor ? facts.triangles * factor + 500 : sourceBytes;
  }
  if (facts?.kind === 'sound') {
    const samples = facts.seconds * facts.sampleRate * facts.channels;
    const share: Readonly<Record<string, number>> = {
      wav: (facts.bits ?? 32) / 8,
      flac: 1.2,
      ogg: 0.35,
      opus: 0.3,
    };
    return Math.round(samples * (share[format] ?? 1)) + 100;
  }
  return sourceBytes;
}

/** A plan as people see it: a page of its files, and its sums. */
export function planAnswer(
  { writings, missing, refused }: WholePlan,
  offset: number,
  limit: number,
): HaulPlan {
  const losses = new Map<string, number>();
  for (const { losses: own } of writings)
    for (const what of own) losses.set(what, (losses.get(what) ?? 0) + 1);
  return {
    files: writings
      .slice(offset, offset + limit)
      .map(
        ({ target, format, path, build, hash, kind, from, sourceBytes, bytes, why, losses, insteadOf }) => ({
          ...{ target, format, path, build, hash, kind, from, sourceBytes, bytes, why, losses, insteadOf },
        }),
      ),
    totalFiles: writings.reduce((sum, { endings }) => sum + endings.length, 0),
    totalAssets: writings.length,
    bytes: writings.reduce((sum, { bytes }) => sum + bytes, 0),
    seconds: writings.reduce(
      (sum, { kind, format }) => sum + (format === asItLay ? 0.003 : (secondsOf[kind] ?? usualSeconds)),
      0,
    ),
    losses: [...losses].sort((a, b) => b[1] - a[1]).map(([what, assets]) => ({ what, assets })),
    clashes: writings.filter(({ insteadOf }) => insteadOf !== '').length,
    missing,
    refused,
  };
}
