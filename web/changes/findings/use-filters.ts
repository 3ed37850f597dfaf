import { findingsQuerySchema, type FindingsQuery } from '../../../contract/findings.ts';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace, useSpan } from '../../ui/use-span.ts';

export type View = 'sheet' | 'table';

type FilterName =
  'status' | 'kind' | 'mark' | 'text' | 'sort' | 'view' | 'noise' | 'assignee' | 'label' | 'folder';

export interface Filters {
  query: FindingsQuery | null;
  view: View;
  /** Changes filters in the address; an empty value takes one out. */
  set: (changes: Partial<Record<FilterName, string>>) => void;
}

/** Filters, order and view of the findings: all of it stands in the address. */
export function useFilters(): Filters {
  const { channel } = usePlace();
  const { from, to } = useSpan();
  const [parameters, set] = useAddress();
  const query =
    from && to
      ? findingsQuerySchema.safeParse({
          ...Object.fromEntries(parameters),
          channel: channel.id,
          from: from.label,
          to: to.label,
        })
      : null;
  return {
    query: query?.success
      ? { ...query.data, offset: 0 }
      : from && to
        ? findingsQuerySchema.parse({ channel: channel.id, from: from.label, to: to.label })
        : null,
    view: parameters.get('view') === 'table' ? 'table' : 'sheet',
    set,
  };
}
