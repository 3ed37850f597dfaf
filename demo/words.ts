import { seedOf, seeded } from './seeded.ts';

export const rights =
  'Mossline Ferry is an invented game. Its name, its files and all that they show were made for this demonstration, ' +
  'and anybody may copy them for any purpose. Nothing in it comes from a real game.';

type TextFile = [path: string, text: string];

const lamps = ['lum_pier', 'lum_bow', 'lum_marsh'];
const boats = ['fry_small', 'fry_mail', 'fry_night'];

/** Maps: what is placed where. The night crossing is in centimetres. */
export function placements(newer: boolean): TextFile[] {
  const isles = ['first', 'heron', 'market', 'fog', 'night', newer ? 'white' : 'old'];
  return isles.map((isle, number) => {
    const random = seeded(seedOf(`isle_${isle}`));
    const inCentimetres = isle === 'night';
    const unit = inCentimetres ? 100 : 1;
    const count = 24 + number * 9;
    const items = Array.from({ length: count }, (_, index) => {
      const angle = random() * Math.PI * 2;
      const reach = Math.sqrt(random()) * (18 + number * 5);
      const turn = random() * Math.PI;
      const [model, kind] = pick(index, number, random);
      return {
        id: `${isle}_${String(index).padStart(3, '0')}`,
        model,
        class: kind,
        position: [reach * Math.cos(angle) * unit, 0, reach * Math.sin(angle) * unit].map(
          (value) => Math.round(value * 1000) / 1000,
        ),
        rotation: [0, Math.round(Math.sin(turn) * 1e6) / 1e6, 0, Math.round(Math.cos(turn) * 1e6) / 1e6],
        scale: [1, 1, 1],
      };
    });
    if (newer && isle === 'market') items.splice(3, 4);
    if (newer && isle === 'first') {
      items.push({
        id: 'first_bird',
        model: 'data/models.zip!/birds/gru_white',
        class: 'bird',
        position: [2, 0, 3],
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
      });
    }
    const table = {
      name: `isle_${isle}`,
      units: inCentimetres ? 'centimetres' : 'metres',
      placements: items,
    };
    return [`maps/isle_${isle}.json`, `${JSON.stringify(table, null, 1)}\n`];
  });
}

function pick(index: number, number: number, random: () => number): [model: string, kind: string] {
  const of = (list: readonly string[]): string => list[Math.floor(random() * list.length)] ?? '';
  switch (index % 6) {
    case 0:
      return [`data/models.zip!/props/lum/${of(lamps)}_l0`, 'light'];
    case 1:
    case 2:
      return [`data/models.zip!/plants/rd_${1 + Math.floor(random() * 5)}_l0`, 'plant'];
    case 3:
      return [`data/models.zip!/boats/${of(boats)}_l0`, 'boat'];
    case 4:
      // One map names a model that no build has.
      return number === 3 && index < 12
        ? ['models/stages/stage_sunken', 'object']
        : [`models/stages/${of(['stage_small', 'stage_long', 'stage_market'])}`, 'object'];
    default:
      return ['data/models.zip!/birds/gru_grey', 'bird'];
  }
}

export function definitions(newer: boolean): TextFile[] {
  const files: TextFile[] = [];
  for (const name of [...lamps, ...boats]) {
    const isLamp = name.startsWith('lum');
    const values = isLamp
      ? `model=data/models.zip!/props/lum/${name}_l0\nburn_minutes=${newer && name === 'lum_bow' ? 95 : 80}\n`
      : `model=data/models.zip!/boats/${name}_l0\nseats=${name.length}\nskins=6\n`;
    files.push([`definitions/${name}.ini`, `; ${isLamp ? 'lantern' : 'ferry'}\n[${name}]\n${values}`]);
  }
  for (let route = 1; route <= 8; route++) {
    if (newer && route === 7) continue;
    const minutes = 6 + route * 2 + (newer && route === 2 ? 3 : 0);
    files.push([
      `definitions/routes/route_${route}.xml`,
      `<route id="r${route}">\n  <from>stage_${route}</from>\n  <to>stage_${route + 1}</to>\n  <minutes>${minutes}</minutes>\n</route>\n`,
    ]);
  }
  const rows = Array.from(
    { length: 30 },
    (_, index) => `fare_${index},${2 + (index % 5)},${index % 3 === 0 ? 'child' : 'adult'}`,
  );
  files.push(['definitions/fares.csv', `id,coins,who\n${rows.join('\n')}\n`]);
  if (newer)
    files.push([
      'definitions/gru_white.ini',
      '; the white heron\n[gru_white]\nmodel=data/models.zip!/birds/gru_white\nshy=1\n',
    ]);
  else files.push(['definitions/old_tolls.csv', 'id,coins\ntoll_1,1\ntoll_2,2\n']);
  return files;
}

const lines: Record<string, readonly (readonly [string, string, string])[]> = {
  greetings: [
    ['hello', 'The water is calm today.', 'Das Wasser ist heute ruhig.'],
    ['bye', 'Mind the wet planks.', 'Vorsicht auf den nassen Planken.'],
  ],
  lanterns: [
    ['lit', 'You light the lantern.', 'Du zündest die Laterne an.'],
    ['out', 'The lantern has gone out.', 'Die Laterne ist erloschen.'],
  ],
  journeys: [
    ['board', 'All aboard for the market stage.', 'Bitte einsteigen zum Marktsteg.'],
    ['fog', 'We wait until the fog lifts.', 'Wir warten, bis sich der Nebel hebt.'],
  ],
  birds: [['seen', 'A heron watches you.', 'Ein Reiher beobachtet dich.']],
  trade: [['sell', 'Reeds fetch two coins a bundle.', 'Schilf bringt zwei Münzen je Bündel.']],
};

export function texts(newer: boolean): TextFile[] {
  const files: TextFile[] = [];
  for (const [name, entries] of Object.entries(lines)) {
    const all =
      newer && name === 'birds'
        ? [...entries, ['white', 'Is that heron white?', 'Ist dieser Reiher weiß?'] as const]
        : entries;
    for (const [language, column] of [
      ['en', 1],
      ['de', 2],
    ] as const) {
      const values = Object.fromEntries(all.map((entry) => [`${name}.${entry[0]}`, entry[column]]));
      files.push([`text/${language}/${name}.json`, `${JSON.stringify(values, null, 2)}\n`]);
    }
  }
  for (let page = 1; page <= 24; page++) {
    const tide = ['ebb', 'flood', 'slack'][page % 3] ?? 'slack';
    files.push([
      `text/logbook/page_${String(page).padStart(2, '0')}.txt`,
      `Page ${page}.\nTide: ${tide}.\nPassengers: ${(page * 7) % 23}.\n`,
    ]);
  }
  for (let level = 1; level <= 16; level++) {
    files.push([
      `definitions/tides/tide_${String(level).padStart(2, '0')}.json`,
      `{"hour": ${level}, "metres": ${(Math.sin(level) * 1.5).toFixed(3)}}\n`,
    ]);
  }
  return files;
}
