export { first, numbers, output, second, steps, stripPixels, sums, tables, waves } from './layout';
export { decodeBc7, prepareBc7 } from './bc7';
export { decodeBlocks } from './bc1-to-bc5';
export { addRows, clearSums, finishRow } from './shrink';
export { addDifferences, clearCounts } from './differences';
export { bandEnergies } from './spectrum';
export { addExtremes, clearExtremes } from './extremes';
export { addProducts, findPeaks, toFloats } from './samples';
