/** Whether keys are for a field that somebody types into. */
export function isTyping(target: EventTarget): boolean {
  return target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');
}
