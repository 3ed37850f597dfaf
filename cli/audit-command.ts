import { auditPageSchema } from '../contract/history.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import { findTitle } from './find-title.ts';
import type { CommonOptions } from './options.ts';

export interface AuditOptions extends CommonOptions {
  title: string;
  json?: boolean;
}

const rowsAtOnce = 1000;

/** Prints who changed what, oldest first, and checks the seals. Ends with 1 where one is broken. */
export async function auditCommand({ title, json, data }: AuditOptions): Promise<void> {
  const broken = await withApplication(dataPath(data), async (application) => {
    const { id } = await findTitle(application, title);
    let found = '';
    let last = { number: 0, seal: '' };
    for (;;) {
      const page = auditPageSchema.parse(
        await getJson(application, `titles/${id}/audit?after=${last.number}&limit=${rowsAtOnce}`),
      );
      found ||= page.broken;
      for (const row of page.rows)
        process.stdout.write(
          json
            ? `${JSON.stringify(row)}\n`
            : `${row.number}  ${row.at}  ${row.by || 'somebody'}${row.from ? ` (${row.from})` : ''}: ${row.what}\n`,
        );
      last = page.rows.at(-1) ?? last;
      if (page.rows.length < rowsAtOnce) break;
    }
    if (!json && found === '' && last.number > 0)
      process.stdout.write(
        `All ${last.number.toLocaleString('en')} are as they were sealed; the last seal is ${last.seal}.\n`,
      );
    return found;
  });
  if (broken === '') return;
  process.stderr.write(`${broken}\n`);
  process.exitCode = 1;
}
