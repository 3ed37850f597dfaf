/** Who says so: the name that somebody gave last, on this machine; empty where nobody did. */
export function authorName(): string {
  return localStorage.getItem('author') ?? '';
}

export function rememberAuthor(name: string): void {
  localStorage.setItem('author', name);
}

/** The same for the pass, in which two people must be told apart: whoever gave no name is a guest with a number. */
export function personName(): string {
  const name = authorName();
  if (name !== '') return name;
  const guest = sessionStorage.getItem('guest') ?? `guest ${100 + Math.floor(Math.random() * 900)}`;
  sessionStorage.setItem('guest', guest);
  return guest;
}
