/** Contents above this are files of their own, and are never held in memory as a whole. */
export const largeContentBytes = 4 * 1024 * 1024;
