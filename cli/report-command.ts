import type { ReportFormat } from '../core/findings/report.ts';
import { compareSpan, spanOf } from './compare-span.ts';
import { dataPath, withApplication } from './connection.ts';
import type { SpanOptions } from './options.ts';

export interface ReportOptions extends SpanOptions {
  format: ReportFormat;
}

/** Writes the news of an update: comparing what was not compared yet comes first. */
export async function reportCommand({ format, data, ...options }: ReportOptions): Promise<void> {
  const span = spanOf(options);
  const text = await withApplication(dataPath(data), async (application) => {
    await compareSpan(application, span);
    return application.getText(`report?${new URLSearchParams({ ...span, format })}`);
  });
  process.stdout.write(text);
}
