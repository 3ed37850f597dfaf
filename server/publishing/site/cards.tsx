import type { ReactNode } from 'react';
import type { EditionEntry } from '../../../contract/editions.ts';
import { escaped } from '../../../core/hauls/record-page.ts';

/** What a card shows of an entry. */
export type CardEntry = Pick<EditionEntry, 'address' | 'name' | 'internalName' | 'spoiler'> & {
  kind: string;
  picture: string | null;
  envelope: readonly number[] | null;
};

export function cardOf({ address, name, internalName, spoiler, assets }: EditionEntry): CardEntry {
  const shown = assets.find(({ preview, envelope }) => preview !== null || envelope !== null) ?? assets[0];
  return {
    ...{ address, name, internalName, spoiler },
    kind: shown?.kind ?? 'other',
    picture: shown?.preview ?? null,
    envelope: shown?.envelope ?? null,
  };
}

/**
 * Specimens in rows, each with its label. What is a spoiler is covered until somebody asks for it, without scripts too. They
 * stand in every list that an entry is in, and are put together as text: as elements they took most of an edition's time.
 */
export function Cards({ entries, root }: { entries: readonly CardEntry[]; root: string }): ReactNode {
  const items = entries.map(
    (entry) => `<li>${entry.spoiler ? covered(entry, root) : card(entry, root)}</li>`,
  );
  return <ul className="cards" dangerouslySetInnerHTML={{ __html: items.join('') }} />;
}

function covered(entry: CardEntry, root: string): string {
  return `<details class="cover"><summary>A spoiler: a ${escaped(entry.kind)}. Show it</summary>${card(entry, root)}</details>`;
}

function card(entry: CardEntry, root: string): string {
  const { address, name, internalName, kind } = entry;
  return `<a href="${escaped(`${root}entries/${address}.html`)}"><span class="plate">${picture(entry, root)}</span><strong>${escaped(name)}</strong><span class="inner">${escaped(internalName || kind)}</span></a>`;
}

function picture({ picture: path, envelope, kind }: CardEntry, root: string): string {
  if (path !== null) return `<img src="${escaped(root + path)}" alt="" loading="lazy"/>`;
  return envelope ? waveform(envelope) : escaped(kind);
}

/** Extremes in slices of time, low, high, low, high, … as strokes of an SVG. */
export function waveform(envelope: readonly number[]): string {
  const strokes = Array.from({ length: envelope.length / 2 }, (_, slice) => {
    const [low = 0, high = 0] = envelope.slice(slice * 2, slice * 2 + 2);
    return `M${slice + 0.5} ${(1 - high).toFixed(2)}V${(1.01 - low).toFixed(2)}`;
  });
  return `<svg class="waveform" viewBox="0 0 ${Math.max(1, strokes.length)} 2" preserveAspectRatio="none" aria-hidden="true"><path d="${strokes.join('')}" vector-effect="non-scaling-stroke"/></svg>`;
}
