import { noiseRulesSchema, type NoiseRule, type NoiseState } from '../../../contract/noise.ts';
import { builtInRules } from '../../../core/findings/noise.ts';
import { readTitleSetting, saveTitleSetting } from '../../acquire/builds/title-settings.ts';
import type { Pool } from '../../platform/database/pool.ts';
import type { Queryable } from '../../platform/database/rows.ts';

/** A title's rules: those that come with the product as they are switched, then its own. @throws NotFoundError */
export async function readRules(database: Queryable, titleId: number): Promise<NoiseState> {
  const { value, revision } = await readTitleSetting(database, titleId, 'noise_rules');
  const kept = noiseRulesSchema.parse(value ?? []);
  const byKey = new Map(kept.map((rule) => [rule.key, rule]));
  const rules = [
    ...builtInRules.map((rule) => ({ ...rule, isOn: byKey.get(rule.key)?.isOn ?? rule.isOn })),
    ...kept
      .filter(({ key }) => !builtInRules.some((rule) => rule.key === key))
      .map((rule) => ({ ...rule, isBuiltIn: false })),
  ];
  return { rules, revision };
}

/** Keeps a title's rules; of those that come with the product only whether they are on. @throws ConflictError */
export async function saveRules(
  pool: Pool,
  titleId: number,
  rules: readonly NoiseRule[],
  revision: string,
  by: string,
): Promise<NoiseState> {
  await saveTitleSetting(pool, titleId, 'noise_rules', rules, revision, by);
  return readRules(pool, titleId);
}
