import { numberOf } from '../parse-json.ts';
import { ReadError } from '../reading.ts';

/** YAML with all digits of its numbers. Several documents are a list. @throws ReadError that says where it breaks */
export async function yamlData(text: string): Promise<unknown> {
  const { parseAllDocuments, visit } = await import('./structured.ts');
  const roots: unknown[] = [];
  for (const document of parseAllDocuments(text.replace(/^\ufeff/, ''))) {
    const [error] = ('errors' in document ? document.errors : []) as { message: string }[];
    if (error) throw new ReadError(`this is not valid YAML: ${error.message.split('\n')[0] ?? ''}`);
    if (!('toJS' in document)) continue;
    visit(document, {
      Scalar(_, node) {
        if (typeof node.value === 'number' && /^[+-]?[\d.]+(?:[eE][+-]?\d+)?$/.test(node.source ?? ''))
          node.value = numberOf(node.source ?? '');
      },
    });
    roots.push(document.toJS({ maxAliasCount: 100 }));
  }
  return roots.length === 1 ? roots[0] : roots;
}
