import { ExtensibleProperty, Property, Texture, TextureInfo } from '@gltf-transform/core';

/**
 * All that a material says, or an extension of it, in one line: whatever it can be asked for without an argument, in the
 * order of the names. Pictures beside the model by their names, those inside it by what they are.
 */
export function propertyText(property: Property | null): string {
  if (!property) return '';
  const words: string[] = [property.getName()];
  for (const [name, value] of valuesOf(property)) {
    if (value instanceof Texture) words.push(name, value.getURI() || pictureText(value));
    else if (value instanceof TextureInfo) words.push(name, propertyText(value));
    else if (Array.isArray(value)) words.push(name, value.join(' '));
    else if (typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean')
      words.push(name, String(value));
  }
  if (property instanceof ExtensibleProperty) words.push(...property.listExtensions().map(propertyText));
  return words.join(' ');
}

function* valuesOf(property: Property): Generator<[name: string, value: unknown]> {
  const prototype = Object.getPrototypeOf(property) as Record<string, unknown>;
  for (const name of Object.getOwnPropertyNames(prototype).sort()) {
    const method = prototype[name];
    if (/^get[A-Z]/.test(name) && typeof method === 'function' && method.length === 0)
      yield [name, (method as () => unknown).call(property)];
  }
}

const pictures = new WeakMap<Texture, string>();

/** 64 bits of the bytes of a picture that lies inside a model. */
function pictureText(texture: Texture): string {
  const known = pictures.get(texture);
  if (known !== undefined) return known;
  let [low, high] = [0x2545f491, 0x9e3779b9 | 0];
  for (const byte of texture.getImage() ?? []) {
    low = Math.imul(low ^ byte, 0x85ebca6b);
    low ^= low >>> 13;
    high = Math.imul(high ^ byte ^ low, 0xc2b2ae35);
    high ^= high >>> 16;
  }
  const text = `${(high >>> 0).toString(16)}.${(low >>> 0).toString(16)}`;
  pictures.set(texture, text);
  return text;
}
