// The packages that read structured texts, together: they are loaded when one comes, and named here since not all of them
// are modules that can be asked for by name later.
export { XMLParser, XMLValidator } from 'fast-xml-parser';
export { po } from 'gettext-parser';
export { parseAllDocuments, visit } from 'yaml';
