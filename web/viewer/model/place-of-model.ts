import type { Level } from './levels.ts';

/** Where a model is, for what is found beside it. */
export interface PlaceOfModel {
  channel: number;
  build: string;
  path: string;
  /** From where another asset of the build is loaded as a model. */
  addressOf: (path: string) => string;
  /** Its levels of detail, the finest first, with itself among them; none where there is one alone. */
  levels: readonly Level[];
  /** Its picture by the server; nothing where there is none. */
  still?: string;
  /** Address of the page of another asset. */
  linkTo?: (path: string) => string;
  /** Takes files for what the model names and the build lacks. */
  onLink?: (links: { text: string; target: string }[]) => void;
}
