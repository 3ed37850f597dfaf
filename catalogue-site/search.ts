import MiniSearch from 'minisearch';
import * as z from 'zod';
import { siteDocumentSchema } from '../contract/catalogue.ts';

/** Shows only the entries that match what is typed; works from static files, without a server. */
export async function startSearch(root: string): Promise<void> {
  const answer = await fetch(`${root}data/search.json`);
  const documents = z.array(siteDocumentSchema).parse(await answer.json());
  const index = new MiniSearch({
    fields: ['name', 'internalName', 'summary', 'kinds', 'paths', 'firstBuild'],
    // Names in files part at anything that is no letter or digit, and between lower and upper case.
    tokenize: (text) =>
      text
        .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
        .split(/[^\p{L}\p{N}]+/u)
        .filter(Boolean),
    searchOptions: { prefix: true, fuzzy: 0.15, combineWith: 'AND', boost: { name: 3, internalName: 2 } },
  });
  index.addAll(documents);
  const form = document.querySelector<HTMLFormElement>('#search');
  const input = document.querySelector<HTMLInputElement>('#query');
  const list = document.querySelector('#entries');
  if (!form || !input || !list) return;
  const cards = new Map(
    [...list.querySelectorAll<HTMLElement>('li')].map((card) => [Number(card.dataset.id), card]),
  );

  const show = (): void => {
    const query = input.value.trim();
    const order =
      query === '' ? documents.map(({ id }) => id) : index.search(query).map(({ id }) => Number(id));
    list.replaceChildren(...order.flatMap((id) => cards.get(id) ?? []));
    const count = document.querySelector('#count');
    if (count) count.textContent = query === '' ? '' : `${order.length} of ${documents.length} entries`;
    document.querySelector('#nothing')?.toggleAttribute('hidden', order.length > 0);
    const address = new URL(location.href);
    if (query === '') address.searchParams.delete('q');
    else address.searchParams.set('q', query);
    history.replaceState(null, '', address);
  };
  input.value = new URL(location.href).searchParams.get('q') ?? '';
  input.addEventListener('input', show);
  form.addEventListener('submit', (event) => event.preventDefault());
  form.hidden = false;
  show();
}
