/** Whether keys are for a field that somebody types into. */
export function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');
}

const settingName = 'letter shortcuts';

/** Letters alone are shortcuts, unless somebody has switched that off: dictation and some keyboards type them unasked (WCAG 2.2, 2.1.4). */
export function hasLetterShortcuts(): boolean {
  return localStorage.getItem(settingName) !== 'off';
}

export function setLetterShortcuts(isOn: boolean): void {
  localStorage.setItem(settingName, isOn ? 'on' : 'off');
}

interface Key {
  key: string;
  ctrlKey: boolean;
  metaKey: boolean;
  altKey: boolean;
  target: EventTarget | null;
}

/** Whether a key that was pressed may be one of the product's own: not with a modifier, nor while somebody types. */
export function isForShortcut({ key, ctrlKey, metaKey, altKey, target }: Key): boolean {
  if (ctrlKey || metaKey || altKey || isTyping(target)) return false;
  return hasLetterShortcuts() || !/^[\p{L}\p{N}?+-]$/u.test(key);
}
