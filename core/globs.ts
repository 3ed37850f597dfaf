import { RE2JS } from 're2js';

export type Matches = (path: string) => boolean;

/** More would be a program and no pattern. */
const mostCharacters = 1000;
const mostAlternatives = 1000;

/**
 * Compiles a glob over paths of `/`. `*` and `?` stay within a name, a name `**` goes over any number of folders, `[a-z]` and
 * `[!a]` are one character, `{a,b}` and `{1..9}` are alternatives, `\` takes the next character as it is. Names that begin
 * with a dot are names like others.
 *
 * Matching takes time in proportion to the path, whatever the glob: it runs on finite automata (re2js), since globs come from
 * people and paths from games. A package for globs alone was tried: `*a*a*a*a*a*a*b` held it for minutes.
 * @throws RangeError where it cannot be understood
 */
export function compileGlob(glob: string): Matches {
  if (glob.length > mostCharacters)
    throw new RangeError(`A glob may have ${mostCharacters} characters, and this one has ${glob.length}.`);
  let expression: RE2JS;
  try {
    expression = RE2JS.compile(new Translation(glob).expression(), RE2JS.DOTALL);
  } catch {
    throw new RangeError(`The glob ${glob} cannot be understood.`);
  }
  return (path) => expression.testExact(path);
}

/** A glob without a slash looks at the name alone, one with a slash at the whole path. @throws RangeError */
export function compileNameGlob(glob: string): Matches {
  const matches = compileGlob(glob);
  return glob.includes('/') ? matches : (path) => matches(path.slice(path.lastIndexOf('/') + 1));
}

class Translation {
  private at = 0;
  private readonly glob: string;

  constructor(glob: string) {
    this.glob = glob;
  }

  expression(): string {
    const whole = this.sequence(false);
    if (this.at < this.glob.length) throw new RangeError('a brace is closed that was not opened');
    return whole;
  }

  private sequence(isInBraces: boolean): string {
    const { glob } = this;
    let text = '';
    while (this.at < glob.length) {
      const character = glob[this.at] ?? '';
      if (isInBraces && (character === ',' || character === '}')) break;
      if (character === '*') text += this.stars(text);
      else if (character === '?') {
        text += '[^/]';
        this.at++;
      } else if (character === '[') text += this.characters();
      else if (character === '{') text += this.braces();
      else {
        if (character === '\\' && this.at + 1 < glob.length) this.at++;
        const [whole = ''] = glob.slice(this.at);
        text += RE2JS.quote(whole);
        this.at += whole.length;
      }
    }
    return text;
  }

  private stars(before: string): string {
    const [stars = ''] = /^\*+/.exec(this.glob.slice(this.at)) ?? [];
    const isAtStart = this.at === 0 || this.glob[this.at - 1] === '/';
    this.at += stars.length;
    const rest = this.glob.slice(this.at);
    const isFolders = stars.length === 2 && isAtStart;
    if (isFolders && rest.startsWith('/')) {
      this.at++;
      return '(?:[^/]+/)*';
    }
    // What ends in any folders is the folder itself, too.
    if (isFolders && rest === '') return before === '' ? '.*' : '.+';
    return '[^/]*';
  }

  private characters(): string {
    const found = /^\[([!^]?)(\]?(?:\[:[a-z]+:\]|[^\]\\]|\\.)*)\]/.exec(this.glob.slice(this.at));
    if (!found) {
      this.at++;
      return '\\[';
    }
    const [whole, not = '', inner = ''] = found;
    this.at += whole.length;
    const safe = inner.replace(/\[:[a-z]+:\]|\\.|[[\]&~^]/g, (piece) =>
      piece.length > 1 ? piece : `\\${piece}`,
    );
    return not === '' ? `[${safe}]` : `[^/${safe}]`;
  }

  private braces(): string {
    const { glob } = this;
    const range = /^\{(-?\d{1,6})\.\.(-?\d{1,6})\}/.exec(glob.slice(this.at));
    if (range) {
      this.at += range[0].length;
      const [from, to] = [Number(range[1]), Number(range[2])];
      if (Math.abs(to - from) >= mostAlternatives) throw new RangeError('too many alternatives');
      const count = Math.abs(to - from) + 1;
      const numbers = Array.from({ length: count }, (_, step) => Math.min(from, to) + step);
      return `(?:${numbers.join('|')})`;
    }
    this.at++;
    const alternatives = [this.sequence(true)];
    while (glob[this.at] === ',') {
      this.at++;
      alternatives.push(this.sequence(true));
    }
    if (glob[this.at] !== '}') throw new RangeError('a brace is not closed');
    this.at++;
    return `(?:${alternatives.join('|')})`;
  }
}
