import type { ReactNode } from 'react';
import type { EditionEntry } from '../../../contract/editions.ts';

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

/** Specimens in rows, each with its label. What is a spoiler is covered until somebody asks for it, without scripts too. */
export function Cards({ entries, root }: { entries: readonly CardEntry[]; root: string }): ReactNode {
  return (
    <ul className="cards">
      {entries.map((entry) => (
        <li key={entry.address}>
          {entry.spoiler ? (
            <details className="cover">
              <summary>{`A spoiler: a ${entry.kind}. Show it`}</summary>
              <Card entry={entry} root={root} />
            </details>
          ) : (
            <Card entry={entry} root={root} />
          )}
        </li>
      ))}
    </ul>
  );
}

function Card({ entry, root }: { entry: CardEntry; root: string }): ReactNode {
  return (
    <a href={`${root}entries/${entry.address}.html`}>
      <span className="plate">
        <Picture entry={entry} root={root} />
      </span>
      <strong>{entry.name}</strong>
      <span className="inner">{entry.internalName || entry.kind}</span>
    </a>
  );
}

function Picture({ entry, root }: { entry: CardEntry; root: string }): ReactNode {
  if (entry.picture !== null) return <img src={root + entry.picture} alt="" loading="lazy" />;
  if (entry.envelope) return <Waveform envelope={entry.envelope} />;
  return entry.kind;
}

/** Extremes in slices of time, low, high, low, high, … as strokes. */
export function Waveform({ envelope }: { envelope: readonly number[] }): ReactNode {
  const strokes = Array.from({ length: envelope.length / 2 }, (_, slice) => {
    const [low = 0, high = 0] = envelope.slice(slice * 2, slice * 2 + 2);
    return `M${slice + 0.5} ${(1 - high).toFixed(2)}V${(1.01 - low).toFixed(2)}`;
  });
  return (
    <svg
      className="waveform"
      viewBox={`0 0 ${Math.max(1, strokes.length)} 2`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path d={strokes.join('')} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
