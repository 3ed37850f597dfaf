import { plainName, uniqueName } from '../../file-names.ts';

const endings: Readonly<Record<string, string>> = {
  'image/png': 'png',
  'image/jpeg': 'jpg',
  'image/webp': 'webp',
};

/** What a picture of a model is called behind the model's stem: in a folder of its own. */
export function endingOfPicture(name: string, mediaType: string, used: Set<string>): string {
  return `.pictures/${uniqueName(plainName(name) || 'picture', used)}.${endings[mediaType] ?? 'png'}`;
}
