import type { ReactNode } from 'react';

/** The name of the file: what comes after the last slash. */
export function nameOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

export function folderOf(path: string): string {
  return path.includes('/') ? path.slice(0, path.lastIndexOf('/') + 1) : '';
}

/** Control characters that a path may hold, each by its picture, so that the eye can tell. */
const pictured = /[\u0000-\u001f\u007f\u200b-\u200f\u202a-\u202e\u2066-\u2069\ufeff]/g;

/**
 * A path as it can be read: what has no shape is shown by a picture or a code, and letters that are put together from
 * parts are marked, since they look like others that are not.
 */
export function readablePath(path: string): string {
  const shown = path.replace(pictured, (character) => {
    const code = character.charCodeAt(0);
    if (code < 0x20) return String.fromCharCode(0x2400 + code);
    return code === 0x7f ? '␡' : `⟨u${code.toString(16).padStart(4, '0')}⟩`;
  });
  return path === path.normalize('NFC') ? shown : `${shown} ⟨put together⟩`;
}

/** A path on one line; where it is too long its beginning is cut, since its end tells more. */
export function PathText({ path }: { path: string }): ReactNode {
  return (
    <span className="path path-line" title={path}>
      <bdi dir="ltr">{readablePath(path)}</bdi>
    </span>
  );
}
