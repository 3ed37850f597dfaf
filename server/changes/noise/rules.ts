import { noiseRulesSchema, type NoiseRule } from '../../../contract/noise.ts';
import { builtInRules } from '../../../core/findings/noise.ts';
import { change, parseColumn, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

/** A title's rules: those that come with the product as they are switched, then its own. @throws NotFoundError */
export async function readRules(database: Queryable, titleId: number): Promise<NoiseRule[]> {
  const row = await selectOne<{ rules: unknown }>(
    database,
    'SELECT noise_rules AS rules FROM titles WHERE id = ?',
    [titleId],
  );
  if (!row) throw new NotFoundError(`There is no title ${titleId}.`);
  const kept = noiseRulesSchema.parse(parseColumn(row.rules) ?? []);
  const byKey = new Map(kept.map((rule) => [rule.key, rule]));
  return [
    ...builtInRules.map((rule) => ({ ...rule, isOn: byKey.get(rule.key)?.isOn ?? rule.isOn })),
    ...kept
      .filter(({ key }) => !builtInRules.some((rule) => rule.key === key))
      .map((rule) => ({ ...rule, isBuiltIn: false })),
  ];
}

/** Keeps a title's rules; of those that come with the product only whether they are on. */
export async function saveRules(
  database: Queryable,
  titleId: number,
  rules: readonly NoiseRule[],
): Promise<NoiseRule[]> {
  await change(database, 'UPDATE titles SET noise_rules = ? WHERE id = ?', [JSON.stringify(rules), titleId]);
  return readRules(database, titleId);
}
