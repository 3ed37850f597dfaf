import * as fontkit from 'fontkit';
import type { FontCharacters } from '../../../contract/fonts.ts';
import { runsOf } from './characters.ts';
import { ReadError, previewSize, readingOf, type Raster, type ReadRequest, type Reader } from '../reading.ts';

const scripts = [
  'Latin',
  'Greek',
  'Cyrillic',
  'Armenian',
  'Georgian',
  'Hebrew',
  'Arabic',
  'Devanagari',
  'Bengali',
  'Tamil',
  'Thai',
  'Hangul',
  'Hiragana',
  'Katakana',
  'Han',
] as const;
const ofScript = scripts.map((script) => new RegExp(`\\p{Script=${script}}`, 'u'));
const sample = 'AaGgQq&3';

/** OpenType, TrueType, WOFF and WOFF2: names, glyphs, and the scripts that it has letters of. */
export const readFont: Reader = async ({ bytes, platform }) => {
  try {
    const font = firstFontOf(bytes);
    const characters = font.characterSet;
    const counts = scripts.map((name, at) => ({
      name,
      count: characters.filter((code) => ofScript[at]?.test(String.fromCodePoint(code))).length,
    }));
    const drawing = drawingOf(font);
    return readingOf(
      {
        kind: 'font',
        family: font.familyName,
        style: font.subfamilyName,
        fullName: font.fullName,
        glyphs: font.numGlyphs,
        characters: characters.length,
        coverage: counts
          .filter(({ count }) => count > 0)
          .sort((a, b) => b.count - a.count)
          .map(({ name, count }) => `${name} ${count}`),
        unitsPerEm: font.unitsPerEm,
        axes: Object.keys(font.variationAxes),
      },
      { preview: drawing === null ? null : await drawn(drawing, platform), decoded: decodedFont(font) },
    );
  } catch (error) {
    throw new ReadError(
      `this font cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
};

/** Of a collection the first. @throws Error */
function firstFontOf(bytes: Uint8Array): fontkit.Font {
  const opened = fontkit.create(bytes as Buffer);
  const [first] = 'fonts' in opened ? opened.fonts : [opened];
  if (!first) throw new Error('the collection is empty');
  return first;
}

/** Which characters a font has. @throws ReadError */
export function fontCharacters(bytes: Uint8Array): FontCharacters {
  try {
    return runsOf(firstFontOf(bytes).characterSet);
  } catch (error) {
    throw new ReadError(
      `this font cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
}

/** Of large fonts the outlines of so many glyphs tell one from another, and the widths of all. */
const mostOutlines = 2000;

/** What is drawn by which characters, whatever the tables are packed in. */
function decodedFont(font: fontkit.Font): Uint8Array[] {
  const lines = [`font ${font.fullName} ${font.unitsPerEm} ${font.numGlyphs}`];
  for (const code of font.characterSet) lines.push(`${code} ${font.glyphForCodePoint(code).id}`);
  for (let id = 0; id < font.numGlyphs; id++) {
    const glyph = font.getGlyph(id);
    lines.push(
      id < mostOutlines ? `${glyph.advanceWidth} ${glyph.path.toSVG()}` : String(glyph.advanceWidth),
    );
  }
  return [new TextEncoder().encode(lines.join('\n'))];
}

/** Some letters of it as a drawing of outlines; of a font without these the first that it has. */
function drawingOf(font: fontkit.Font): string | null {
  const text = [...sample].every((letter) => font.hasGlyphForCodePoint(letter.codePointAt(0) ?? 0))
    ? sample
    : String.fromCodePoint(...font.characterSet.filter((code) => code > 32).slice(0, 6));
  if (text === '') return null;
  const { glyphs, positions } = font.layout(text);
  let x = 0;
  const shapes = glyphs.map((glyph, at) => {
    const shape = `<path transform="translate(${x} 0)" d="${glyph.path.toSVG()}"/>`;
    x += positions[at]?.xAdvance ?? 0;
    return shape;
  });
  const height = font.ascent - font.descent;
  return x > 0 && height > 0
    ? `<svg xmlns="http://www.w3.org/2000/svg" width="${previewSize}" height="${Math.round((previewSize * height) / x)}" viewBox="0 ${-font.ascent} ${x} ${height}"><g transform="scale(1 -1)" fill="#5b6f6c">${shapes.join('')}</g></svg>`
    : null;
}

async function drawn(drawing: string, platform: ReadRequest['platform']): Promise<Raster | null> {
  const { decode } = await platform.openPicture(new TextEncoder().encode(drawing));
  const { data, ...size } = await decode();
  return data instanceof Uint8Array ? { ...size, rgba: data } : null;
}
