import { SiteSearch } from '../core/catalogue/search.ts';
import { facets, type Facet } from '../core/catalogue/search-index.ts';
import type { SiteDocument } from '../contract/catalogue.ts';

const shownAtOnce = 12;
/** Values of a facet that are offered. */
const mostValues = 40;
const headings: Record<Facet, string> = { kind: 'Kind', thing: 'Kind of thing', tag: 'Tag', build: 'Build' };

function element<Name extends keyof HTMLElementTagNameMap>(
  name: Name,
  properties: Partial<HTMLElementTagNameMap[Name]> = {},
  ...children: (Node | string)[]
): HTMLElementTagNameMap[Name] {
  const made = Object.assign(document.createElement(name), properties);
  made.append(...children);
  return made;
}

/** The page that searches, from static files: words, and values to narrow down by, in its address. */
export function startSearch(root: string): void {
  const form = document.querySelector<HTMLFormElement>('#search');
  const input = document.querySelector<HTMLInputElement>('#query');
  const list = document.querySelector<HTMLElement>('#found');
  const more = document.querySelector<HTMLButtonElement>('#more');
  const count = document.querySelector<HTMLElement>('#count');
  const narrow = document.querySelector<HTMLDetailsElement>('#facets');
  const choices = document.querySelector<HTMLElement>('#choices');
  if (!form || !input || !list || !more || !count || !narrow || !choices) return;
  const search = new SiteSearch(async (path) => {
    const answer = await fetch(`${root}search/${path}`);
    if (!answer.ok) throw new Error(`the site has no ${path}`);
    return answer.json() as Promise<unknown>;
  });
  const chosen = new Map<Facet, string>();
  let numbers: readonly number[] = [];
  let shown = 0;
  let round = 0;

  const readAddress = (): void => {
    const { searchParams } = new URL(location.href);
    input.value = searchParams.get('q') ?? '';
    chosen.clear();
    for (const facet of facets) {
      const value = searchParams.get(facet);
      if (value !== null) chosen.set(facet, value);
    }
  };
  const writeAddress = (): void => {
    const address = new URL(location.href);
    address.search = '';
    if (input.value.trim() !== '') address.searchParams.set('q', input.value.trim());
    for (const [facet, value] of chosen) address.searchParams.set(facet, value);
    history.replaceState(null, '', address);
  };

  const showMore = async (): Promise<void> => {
    const mine = round;
    const part = numbers.slice(shown, shown + shownAtOnce);
    shown += part.length;
    more.hidden = shown >= numbers.length;
    const found = await search.documents(part);
    if (mine === round) list.append(...found.map((document) => card(document, root)));
  };

  const look = async (): Promise<void> => {
    const mine = ++round;
    writeAddress();
    const query = input.value.trim();
    if (query === '' && chosen.size === 0) {
      numbers = [];
      count.textContent = '';
    } else {
      const sets: (readonly number[])[] = query === '' ? [] : [(await search.find(query)).numbers];
      for (const [facet, value] of chosen) {
        const values = await search.facet(facet);
        sets.push([...(values.find((one) => one.value === value)?.numbers ?? [])].reverse());
      }
      if (mine !== round) return;
      const [first = [], ...others] = sets;
      const inOthers = others.map((other) => new Set(other));
      numbers = first.filter((number) => inOthers.every((other) => other.has(number)));
      count.textContent =
        numbers.length === 0
          ? 'No entry matches. Try a part of a name, or fewer words.'
          : `${numbers.length.toLocaleString('en')} ${numbers.length === 1 ? 'entry' : 'entries'}`;
    }
    list.replaceChildren();
    shown = 0;
    more.hidden = true;
    narrow.hidden = numbers.length === 0 && chosen.size === 0;
    await showMore();
    if (narrow.open) await offerChoices();
  };

  /** Values with how many of what was found have them: loaded when somebody opens them. */
  const offerChoices = async (): Promise<void> => {
    const mine = round;
    const found = new Set(numbers);
    const groups: HTMLElement[] = [];
    for (const facet of facets) {
      const values = (await search.facet(facet))
        .map(({ value, numbers: own }) => ({
          value,
          count: own.filter((number) => found.has(number)).length,
        }))
        .filter(({ value, count: own }) => own > 0 || chosen.get(facet) === value)
        .sort((a, b) => b.count - a.count)
        .slice(0, mostValues);
      if (values.length === 0) continue;
      groups.push(
        element(
          'fieldset',
          {},
          element('legend', { textContent: headings[facet] }),
          ...values.map(({ value, count: own }) => {
            const isOn = chosen.get(facet) === value;
            const button = element('button', {
              type: 'button',
              textContent: `${value} (${own.toLocaleString('en')})`,
              onclick: () => {
                if (isOn) chosen.delete(facet);
                else chosen.set(facet, value);
                run();
              },
            });
            button.setAttribute('aria-pressed', String(isOn));
            return button;
          }),
        ),
      );
    }
    if (mine === round) choices.replaceChildren(...groups);
  };

  const run = (): void => {
    look().catch((error: unknown) => {
      count.textContent = `The search does not work: ${error instanceof Error ? error.message : String(error)}.`;
    });
  };
  readAddress();
  input.addEventListener('input', run);
  form.addEventListener('submit', (event) => {
    event.preventDefault();
    run();
  });
  more.addEventListener('click', () => void showMore());
  narrow.addEventListener('toggle', () => {
    if (narrow.open) void offerChoices();
  });
  narrow.open = chosen.size > 0;
  addEventListener('popstate', () => {
    readAddress();
    run();
  });
  run();
  input.focus();
}

/** As a card of the site's own pages: what is a spoiler is covered until somebody asks for it. */
function card(
  { slug, name, internalName, kind, picture, spoiler }: SiteDocument,
  root: string,
): HTMLLIElement {
  const plate = element('span', { className: 'plate' });
  if (picture === '') plate.append(kind);
  else plate.append(element('img', { src: root + picture, alt: '', loading: 'lazy' }));
  const link = element(
    'a',
    { href: `${root}entries/${slug}.html` },
    plate,
    element('strong', { textContent: name }),
    element('span', { className: 'inner', textContent: internalName || kind }),
  );
  if (!spoiler) return element('li', {}, link);
  return element(
    'li',
    {},
    element(
      'details',
      { className: 'cover' },
      element('summary', { textContent: `A spoiler: a ${kind}. Show it` }),
      link,
    ),
  );
}
