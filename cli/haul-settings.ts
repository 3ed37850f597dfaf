import { haulSettingsSchema, type HaulSettings } from '../contract/haul-settings.ts';
import { UsageError } from './usage-error.ts';

/**
 * Settings with what `--set` says of them, such as `pictures.as=png` or `folders=one folder`.
 * @throws UsageError for what is no setting, or no value of one
 */
export function settingsWith(
  settings: Readonly<Record<string, unknown>>,
  said: readonly string[],
): HaulSettings {
  const usual: Record<string, unknown> = haulSettingsSchema.parse({});
  let result: Record<string, unknown> = { ...settings };
  for (const one of said) {
    const [, group = '', key = '', value = ''] = /^(\w+)(?:\.(\w+))?=(.*)$/.exec(one) ?? [];
    if (group === '')
      throw new UsageError(`${one} is no setting: write pictures.as=png, or folders="one folder".`);
    const known = usual[group];
    const keys = typeof known === 'object' && known !== null ? Object.keys(known) : [];
    if (known === undefined || (key === '' ? keys.length > 0 : !keys.includes(key)))
      throw new UsageError(
        `${one} is no setting: ${(keys.length > 0 ? keys.map((name) => `${group}.${name}`) : Object.keys(usual)).join(', ')} are known.`,
      );
    const before = key === '' ? known : (known as Record<string, unknown>)[key];
    const plain = valueLike(before, value);
    result = {
      ...result,
      [group]:
        key === '' ? plain : { ...(result[group] as Record<string, unknown> | undefined), [key]: plain },
    };
  }
  const parsed = haulSettingsSchema.safeParse(result);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new UsageError(`${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}`);
}

/** What is typed has the type of what usually stands there; what does not fit is left for the schema to refuse. */
function valueLike(usual: unknown, text: string): unknown {
  if (typeof usual === 'number' && text.trim() !== '' && Number.isFinite(Number(text))) return Number(text);
  if (typeof usual === 'boolean' && (text === 'true' || text === 'false')) return text === 'true';
  return text;
}
