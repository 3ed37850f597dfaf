/** What lies at a path, as the tables number it. */
export const role = { file: 0, container: 1, link: 2 } as const;
export type Role = (typeof role)[keyof typeof role];

/** `last_sequence` of what the newest build still has. */
export const openEnd = 4_294_967_295;
