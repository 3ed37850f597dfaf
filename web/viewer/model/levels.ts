/** A level of detail of the thing that is looked at. */
export interface Level {
  path: string;
  level: number;
  triangles: number | null;
  sizeBytes: number | null;
  /** Picture of it; null where there is none. */
  preview: string | null;
}
