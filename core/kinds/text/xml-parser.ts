import { ReadError } from '../reading.ts';

interface Shape {
  /** Elements in their order, each an object of its own. */
  preserveOrder?: boolean;
  attributeNamePrefix: string;
  trimValues?: boolean;
  cdataPropName?: string;
}

/**
 * What an XML text holds, as words: no number is made of any.
 * @throws ReadError that says where it breaks
 */
export async function parsedXml(text: string, shape: Shape): Promise<unknown> {
  const { XMLParser, XMLValidator } = await import('./structured.ts');
  const checked = XMLValidator.validate(text);
  if (checked !== true)
    throw new ReadError(
      `this is not valid XML: line ${checked.err.line}, column ${checked.err.col}: ${checked.err.msg}`,
    );
  return new XMLParser({
    ...shape,
    ignoreAttributes: false,
    // Entities of the document's own are not taken: they can grow without bounds.
    processEntities: false,
    parseTagValue: false,
    parseAttributeValue: false,
  }).parse(text) as unknown;
}
