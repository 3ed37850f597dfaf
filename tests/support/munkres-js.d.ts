declare module 'munkres-js' {
  /** Pairs of row and column of the cheapest assignment. */
  export default function munkres(costs: readonly (readonly number[])[]): unknown;
}
