import { makePictures } from './pictures.ts';
import { makeModels } from './models.ts';
import { makeSounds } from './sounds.ts';
import { makeTexts } from './texts.ts';
import { makeToolPictures } from './picture-tools.ts';
import type { TruthMaker } from './truth.ts';

/** All that makes pairs of known change, by kind of content. */
export const makers: Readonly<Record<string, TruthMaker>> = {
  texts: makeTexts,
  pictures: makePictures,
  'pictures by other programs': makeToolPictures,
  models: makeModels,
  sounds: makeSounds,
};
