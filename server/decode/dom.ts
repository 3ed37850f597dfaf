import { DOMParser, onErrorStopParsing } from '@xmldom/xmldom';

/** Says where XML is not as it should be, and stops there. */
class StrictDomParser extends DOMParser {
  constructor() {
    super({ onError: onErrorStopParsing });
  }
}

/** Readers of XML models look for a global parser, as browsers have one. */
export function provideDom(): void {
  if (!('DOMParser' in globalThis)) Object.assign(globalThis, { DOMParser: StrictDomParser });
}
