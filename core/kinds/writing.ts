/** A file that was made of a content. */
export interface MadeFile {
  /** What it is called behind the stem of the content's target: `.glb`, `.pictures/hull-normal.png`. */
  ending: string;
  bytes: Uint8Array;
}

/** How what was written compares with what it was made of, once it was read again. */
export interface Proof {
  verdict: 'the same' | 'differs' | 'not checked';
  /** What differs, and by how much; empty where nothing does. */
  sentence: string;
}

/** What came of writing one content. */
export interface Written {
  files: MadeFile[];
  /** What the format could not hold, in words. */
  losses: string[];
  /** What else was done or could not be done, in sentences without their stop. */
  notes: string[];
  proof: Proof;
}
