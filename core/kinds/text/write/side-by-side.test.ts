import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { haulSettingsSchema } from '../../../../contract/haul-settings.ts';
import { nodePlatform } from '../../../../server/decode/platform.ts';
import { writeContent } from '../../write.ts';
import type { Written } from '../../writing.ts';
import { withoutLanguage } from '../language.ts';

const files: Record<string, string> = {
  'text/en/pier.json': JSON.stringify({
    lamp: 'Pier lantern',
    tide: 'High tide, "again"',
    only: 'Here alone',
  }),
  'text/de/pier.json': JSON.stringify({ tide: 'Flut', lamp: 'Stegleuchte,\nzweizeilig' }),
  'text/fr/pier.json': JSON.stringify({ lamp: 'Lanterne', extra: 'De plus' }),
};

async function write(as: 'csv' | 'json', paths = Object.keys(files)): Promise<Written> {
  const [first = '', ...others] = paths;
  const bytes = Buffer.from(files[first] ?? '');
  return writeContent(
    'json',
    {
      ...{ bytes, size: bytes.length, part: (start, end) => bytes.subarray(start, end), path: first },
      ...{ platform: nodePlatform, film: undefined, recipe: undefined, bySheet: undefined },
      resolve: async (path) => {
        const text = files[path.replace(/^(\.\.\/)+/, '')];
        return text === undefined ? null : Buffer.from(text);
      },
    },
    {
      settings: haulSettingsSchema.parse({ texts: { as, languages: 'side by side' } }),
      ...{ kind: 'text', stem: 'pier', space: null, isNormal: false, worn: [], leftOut: [] },
      ...{ together: others.map((path) => `../../${path}`), arrangement: null },
    },
  );
}

describe('Texts side by side', () => {
  it('have a row to each key and a column to each language, as Python reads the CSV', async () => {
    const { files: made, notes, proof } = await write('csv');
    const program =
      'import csv, io, json, sys; print(json.dumps(list(csv.reader(io.StringIO(sys.stdin.buffer.read().decode(), newline="")))))';
    const rows: unknown = JSON.parse(
      execFileSync('python3', ['-c', program], { input: made[0]?.bytes ?? '', encoding: 'utf8' }),
    );
    expect(rows).to.deep.equal([
      ['key', 'en', 'de', 'fr'],
      ['lamp', 'Pier lantern', 'Stegleuchte,\nzweizeilig', 'Lanterne'],
      ['tide', 'High tide, "again"', 'Flut', ''],
      ['only', 'Here alone', '', ''],
      ['extra', '', '', 'De plus'],
    ]);
    expect(notes).to.deep.equal(['1 text not in en', '2 texts not in de', '2 texts not in fr']);
    expect(proof.verdict).to.equal('the same');
  });

  it('say in JSON only what a language has', async () => {
    const { files: made, proof } = await write('json');
    const rows = JSON.parse(Buffer.from(made[0]?.bytes ?? []).toString()) as unknown[];
    expect(rows[1]).to.deep.equal({ key: 'tide', values: { en: 'High tide, "again"', de: 'Flut' } });
    expect(rows).to.have.length(4);
    expect(proof.verdict).to.equal('the same');
  });

  it('are not written where one of them is gone, which is named', async () => {
    const reason = await write('csv', [...Object.keys(files), 'text/it/pier.json']).then(
      () => '',
      (error: unknown) => (error as Error).message,
    );
    expect(reason).to.equal('text/it/pier.json is not there any more');
  });

  it('belong together by their paths without the language', () => {
    for (const [path, shared] of [
      ['text/en/pier.json', 'text/pier.json'],
      ['text/pier_de.json', 'text/pier.json'],
      ['text/pier-pt-br.json', 'text/pier.json'],
      ['locale/fr.po', 'locale/texts.po'],
      ['locale/id.csv', 'locale/texts.csv'],
      ['text/de/menu.de.csv', 'text/de/menu.csv'],
      ['text/pier.json', null],
      ['data.zip!/en/a.json', 'data.zip!/a.json'],
    ] as const)
      expect(withoutLanguage(path), path).to.equal(shared);
  });
});
