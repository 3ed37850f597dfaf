import { lazy, Suspense, useEffect, useState, type ReactNode } from 'react';
import { tableOf, type Table } from '../../../core/kinds/text/table.ts';
import { failureText } from '../../ui/api.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useShownTextQuery, useTextQuery } from '../assets-api.ts';
import { TableGrid } from './table-grid.tsx';

const TextLines = lazy(() => import('./text-lines.tsx'));

interface Shown {
  text: string;
  truncated: boolean;
}

/** A text in its lines, and as a table where it is one. */
export function TextViewer({
  hash,
  format,
  path,
}: {
  hash: string;
  format: string;
  path: string;
}): ReactNode {
  const { data, error } = useTextQuery(hash);
  if (error) return <Failure text={failureText(error)} />;
  return data ? <TextOrTable {...{ data, format, path }} /> : <Loading what="the text" />;
}

/** A table that a sheet reads. */
export function TableViewer(where: { channel: number; build: string; path: string }): ReactNode {
  const { data, error } = useShownTextQuery(where);
  if (error) return <Failure text={failureText(error)} />;
  return data ? <TextOrTable data={data} format="csv" path={where.path} /> : <Loading what="the table" />;
}

function TextOrTable({ data, format, path }: { data: Shown; format: string; path: string }): ReactNode {
  const [table, setTable] = useState<Table | null>(null);
  const [isText, setText] = useState(false);
  useEffect(() => {
    let isCurrent = true;
    if (format === 'csv')
      void tableOf(data.text).then((read) => {
        if (isCurrent) setTable(read);
      });
    return () => {
      isCurrent = false;
    };
  }, [data, format]);
  const tools = format === 'csv' && (
    <>
      <Toggle isOn={!isText} onClick={() => setText(false)}>
        Table
      </Toggle>
      <Toggle isOn={isText} onClick={() => setText(true)}>
        Text
      </Toggle>
    </>
  );
  if (format === 'csv' && !isText)
    return table ? <TableGrid table={table}>{tools}</TableGrid> : <Loading what="the table" />;
  return (
    <Suspense fallback={<Loading what="the text" />}>
      <TextLines text={data.text} isCut={data.truncated} {...{ format, path }}>
        {tools}
      </TextLines>
    </Suspense>
  );
}
