import type { Facts } from '../../contract/facts.ts';
import { unitSymbol } from '../kinds/model/model-document.ts';
import { bytesText, extentText, peakText, plural, secondsText } from '../figures.ts';
import type { PlainFinding } from './find.ts';

/** One sentence that tells how a thing differs, or what it is where it is new. */
export function evidenceOf(finding: PlainFinding, facts: Facts | null, oldFacts: Facts | null): string {
  switch (finding.status) {
    case 'added':
      return sentence(`new: ${describe(facts) ?? bytesText(finding.size)}`);
    case 'removed':
      return sentence(`gone: ${describe(oldFacts) ?? bytesText(finding.oldSize)}`);
    case 'moved':
      return `The same content, moved from ${finding.oldPath ?? ''}.`;
    case 'copied':
      return `The same content as ${finding.oldPath ?? ''}, which is still there.`;
    case 'repacked':
      return 'Other bytes, same decoded content.';
    case 'changed':
      return sentence(changed(finding, facts, oldFacts));
  }
}

function changed(finding: PlainFinding, facts: Facts | null, oldFacts: Facts | null): string {
  if (finding.hash === null) return 'it cannot be read in the newer build';
  if (finding.oldHash === null) return 'it could not be read in the older build, and now it can';
  const differences = facts && oldFacts ? compareFacts(facts, oldFacts) : [];
  if (differences.length > 0) return differences.join(', ');
  const size = finding.size ?? 0;
  const oldSize = finding.oldSize ?? 0;
  const what = facts ? 'the same figures, other content' : 'other content';
  if (size === oldSize) return `${what}, still ${bytesText(size)}`;
  const [before, after] = [bytesText(oldSize), bytesText(size)];
  return before === after
    ? `${what}, ${plural(Math.abs(size - oldSize), 'byte')} ${size > oldSize ? 'more' : 'fewer'}`
    : `${what}, ${before} → ${after}`;
}

function compareFacts(now: Facts, old: Facts): string[] {
  if (now.kind === 'picture' && old.kind === 'picture') {
    return [
      step('', `${old.width} × ${old.height}`, `${now.width} × ${now.height}`),
      step('channels', old.channels, now.channels),
      step('bits a channel', old.bitsPerChannel, now.bitsPerChannel),
      step('frames', old.frames, now.frames),
    ].filter(isTold);
  }
  if (now.kind === 'model' && old.kind === 'model') {
    return [
      step('triangles', old.triangles, now.triangles),
      step('vertices', old.vertices, now.vertices),
      step('parts', old.parts, now.parts),
      step('materials', old.materials, now.materials),
      step('textures', old.textures, now.textures),
      step('bones', old.bones, now.bones),
      step('clips', old.clips.length, now.clips.length),
      ...now.clips.map(({ name, seconds }) => {
        const before = old.clips.find((clip) => clip.name === name);
        return before && step(`clip ${name}`, secondsText(before.seconds), secondsText(seconds));
      }),
      step(
        'extent',
        extentText(old.boundsMetres, unitSymbol(old.units)),
        extentText(now.boundsMetres, unitSymbol(now.units)),
      ),
    ].filter(isTold);
  }
  if (now.kind === 'clip' && old.kind === 'clip') {
    return [
      step('clips', old.clips.length, now.clips.length),
      ...now.clips.map(({ name, seconds }) => {
        const before = old.clips.find((clip) => clip.name === name);
        return before && step(`clip ${name}`, secondsText(before.seconds), secondsText(seconds));
      }),
    ].filter(isTold);
  }
  if (now.kind === 'font' && old.kind === 'font') {
    return [
      step('glyphs', old.glyphs, now.glyphs),
      step('characters', old.characters, now.characters),
      step('', old.fullName, now.fullName),
    ].filter(isTold);
  }
  if (now.kind === 'film' && old.kind === 'film') {
    return [
      step('', secondsText(old.seconds), secondsText(now.seconds)),
      step('tracks', old.tracks.length, now.tracks.length),
    ].filter(isTold);
  }
  if (now.kind === 'sound' && old.kind === 'sound') {
    return [
      step('', secondsText(old.seconds), secondsText(now.seconds)),
      step('Hz', old.sampleRate, now.sampleRate),
      step('channels', old.channels, now.channels),
      step('loops', old.loops.length, now.loops.length),
      step('peak', peakText(old.peak), peakText(now.peak)),
    ].filter(isTold);
  }
  if (now.kind === 'map' && old.kind === 'map') {
    const newModels = now.models.filter((model) => !old.models.includes(model)).length;
    const goneModels = old.models.filter((model) => !now.models.includes(model)).length;
    return [
      step('placements', old.placements, now.placements),
      newModels > 0 ? `${plural(newModels, 'model')} placed for the first time` : null,
      goneModels > 0 ? `${plural(goneModels, 'model')} placed no more` : null,
    ].filter(isTold);
  }
  if (now.kind === 'text' && old.kind === 'text') {
    return [
      step('lines', old.lines, now.lines),
      step('values', old.values ?? '', now.values ?? ''),
      step('', old.encoding, now.encoding),
    ].filter(isTold);
  }
  return now.kind === old.kind ? [] : [`it was a ${old.kind} and is a ${now.kind}`];
}

/** What a content is, in a phrase; null where no reader knows. */
export function describe(facts: Facts | null): string | null {
  switch (facts?.kind) {
    case 'picture':
      return `${facts.width} × ${facts.height} pixels${facts.hasAlpha ? ' with alpha' : ''}`;
    case 'model': {
      const bones = facts.bones > 0 ? `, ${plural(facts.bones, 'bone')}` : '';
      const clips = facts.clips.length > 0 ? `, ${plural(facts.clips.length, 'clip')}` : '';
      return `${plural(facts.triangles, 'triangle')}, ${plural(facts.materials, 'material')}${bones}${clips}`;
    }
    case 'clip':
      return `${plural(facts.clips.length, 'clip')} of ${secondsText(facts.clips[0]?.seconds ?? 0)}`;
    case 'font':
      return `${facts.fullName}, ${plural(facts.glyphs, 'glyph')}`;
    case 'film':
      return `${secondsText(facts.seconds)}, ${plural(facts.tracks.length, 'track')}`;
    case 'sound':
      if (facts.notes !== null) return `${secondsText(facts.seconds)}, ${plural(facts.notes, 'note')}`;
      return `${secondsText(facts.seconds)}, ${facts.sampleRate} Hz${facts.loops.length > 0 ? ', looped' : ''}`;
    case 'map':
      return `${plural(facts.placements, 'placement')} of ${plural(facts.models.length, 'model')}`;
    case 'text':
      return facts.values === null ? plural(facts.lines, 'line') : `${plural(facts.values, 'value')}`;
    default:
      return null;
  }
}

const isTold = (text: string | null | undefined): text is string => text !== null && text !== undefined;

function step(noun: string, old: string | number, now: string | number): string | null {
  if (old === now) return null;
  const change =
    typeof old === 'number' && typeof now === 'number'
      ? ` (${now > old ? '+' : '−'}${Math.abs(now - old).toLocaleString('en')})`
      : '';
  const value = (of: string | number): string => (typeof of === 'number' ? of.toLocaleString('en') : of);
  return `${noun}${noun ? ' ' : ''}${value(old)} → ${value(now)}${change}`;
}

function sentence(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}
