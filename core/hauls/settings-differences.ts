/** The settings that differ from others, by their names with dots, each with both values. Objects of the same shape. */
export function settingsDifferences(
  settings: object,
  others: object,
): { name: string; value: string; other: string }[] {
  return Object.entries(settings).flatMap(([name, value]: [string, unknown]) => {
    const other: unknown = (others as Record<string, unknown>)[name];
    if (isObject(value) && isObject(other))
      return settingsDifferences(value, other).map((one) => ({ ...one, name: `${name}.${one.name}` }));
    const [here, there] = [textOf(value), textOf(other)];
    return here === there ? [] : [{ name, value: here, other: there }];
  });
}

function isObject(value: unknown): value is object {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : (JSON.stringify(value) ?? '');
}
