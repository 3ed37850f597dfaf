import { parseQuery, type Query } from '../../core/search/query.ts';

/** A query as it is written, and a kind that is chosen beside it. @throws QueryError */
export function queryOf({ text, kind }: { text: string; kind: string }): Query {
  const query = parseQuery(text);
  if (kind !== '') query.choices.push({ field: 'kind', values: [kind], isExcluded: false });
  return query;
}
