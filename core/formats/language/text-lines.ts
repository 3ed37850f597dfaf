import type { FormatSheet, LineRule, TextLayout } from '../../../contract/format-sheets.ts';
import { compileExpression, reservedWords, wholeNumber, type Compute } from './expression.ts';
import { LineColumns } from './line-columns.ts';
import type { ReadOne } from './plain-types.ts';
import { SheetError } from './sheet-error.ts';
import { decoderOf } from './texts.ts';
import { List, Struct, type Reading, type Value } from './values.ts';
import { isInVersion } from './versions.ts';
import { wordReader, type ReadWords } from './words.ts';

/** A rule for lines, ready. */
interface Rule {
  name: string;
  /** Words that such lines begin with; none where any line may be one. */
  keyword: readonly string[];
  isSingle: boolean;
  read: ReadWords;
  block: Block | null;
}

interface Block {
  rules: readonly Rule[];
  /** `next`: up to the next line of the same rule. A word that ends it. */
  end: string;
  count: Compute | null;
}

/** A block whose lines are being read; the file itself is the outermost. */
interface Open {
  struct: Struct;
  rules: readonly Rule[];
  /** By which it was opened; null of the file. */
  rule: Rule | null;
  /** Lines still to come, where their number is known. */
  left: number;
  columns: Map<Rule, LineColumns>;
  structs: Map<Rule, Struct[]>;
}

/** Makes the rules of a text sheet ready to read lines in one of its versions. @throws SheetError */
export function compileText(sheet: FormatSheet, version: string, budget: { fields: number }): ReadOne {
  const { text } = sheet;
  if (!text) throw new SheetError('the sheet has neither “root” nor “text”');
  decoderOf(text.encoding);
  const rules = compileRules(text.lines, sheet, version, budget);
  const split = wordSplitter(text);
  return (reading, root) => {
    reading.root = root;
    reading.trace?.holds(root);
    readLines(reading, root, rules, text, split);
    return root;
  };
}

function compileRules(
  lines: Record<string, LineRule>,
  sheet: FormatSheet,
  version: string,
  budget: { fields: number },
): Rule[] {
  return Object.entries(lines).flatMap(([name, rule]) => {
    for (const word of [name, ...Object.keys(rule.words ?? {})])
      if (Object.hasOwn(reservedWords, word) || word === 'line' || (rule.split && word === 'words'))
        throw new SheetError(`nothing can be called ${word}: expressions use this word`, null, name);
    if (--budget.fields < 0) throw new SheetError('the sheet has too many rules, with all its versions');
    if (!isInVersion(rule, sheet, version)) return [];
    try {
      const block = rule.block && {
        rules: compileRules(rule.block, sheet, version, budget),
        end: rule.end ?? (rule.count === undefined ? '}' : ''),
        count: rule.count === undefined ? null : compileExpression(rule.count),
      };
      const read = wordReader(rule.words ?? {}, rule.split ?? null);
      const keyword = rule.keyword?.split(' ').filter((part) => part !== '') ?? [];
      return [{ name, keyword, isSingle: rule.single ?? false, read, block: block ?? null }];
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      throw new SheetError(error.message, null, error.where === '' ? name : `${name}.${error.where}`);
    }
  });
}

type Split = (line: string) => string[];

function wordSplitter({ comment, quotes, separators }: TextLayout): Split {
  const space = new RegExp(`[\\s${separators.replace(/[\\\]^-]/g, '\\$&')}]+`);
  const hasQuote = quotes === '' ? null : new RegExp(`[${quotes.replace(/[\\\]^-]/g, '\\$&')}]`);
  const uncommented = (line: string): string => {
    let end = line.length;
    for (const mark of comment) {
      const at = line.indexOf(mark);
      if (at >= 0 && at < end) end = at;
    }
    return end === line.length ? line : line.slice(0, end);
  };
  const plain: Split = (line) =>
    uncommented(line)
      .split(space)
      .filter((word) => word !== '');
  return (line) => (hasQuote?.test(line) ? quotedWords(line, quotes, comment, space) : plain(line));
}

/** Words of a line in which some stand in quotation marks: what is in these is one word, and no comment. */
function quotedWords(line: string, quotes: string, comment: readonly string[], space: RegExp): string[] {
  const words: string[] = [];
  let word = '';
  let isWord = false;
  for (let at = 0; at < line.length; at++) {
    const letter = line[at] as string;
    if (quotes.includes(letter)) {
      const end = line.indexOf(letter, at + 1);
      word += line.slice(at + 1, end < 0 ? line.length : end);
      isWord = true;
      at = end < 0 ? line.length : end;
    } else if (comment.some((mark) => line.startsWith(mark, at))) break;
    else if (space.test(letter)) {
      if (isWord) words.push(word);
      [word, isWord] = ['', false];
    } else {
      word += letter;
      isWord = true;
    }
  }
  if (isWord) words.push(word);
  return words;
}

function readLines(
  reading: Reading,
  root: Struct,
  rules: readonly Rule[],
  text: TextLayout,
  split: Split,
): void {
  reading.budget.allocate(reading.file.bytes.length * 2);
  const whole = decoderOf(text.encoding)
    .decode(reading.file.bytes)
    .replace(/^\ufeff/, '');
  const open: Open[] = [opened(root, rules, null, Infinity)];
  let number = 0;
  for (let begin = 0; begin <= whole.length;) {
    let end = whole.indexOf('\n', begin);
    if (end < 0) end = whole.length;
    const words = split(whole.slice(begin, end));
    begin = end + 1;
    number++;
    reading.budget.step(1 + words.length);
    if (number === 1 && text.begins !== undefined && !whole.startsWith(text.begins))
      throw new SheetError(`the file does not begin with “${text.begins}”`, 1);
    if (words.length === 0) continue;
    try {
      readLine(reading, open, words, number);
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      throw new SheetError(error.message, number, error.where);
    }
  }
  while (open.length > 0) {
    const left = open.pop() as Open;
    if (left.rule?.block && left.rule.block.end !== 'next' && (left.left > 0 || left.rule.block.end !== ''))
      throw new SheetError(
        `the file ends within “${left.rule.keyword.join(' ') || left.rule.name}”${left.left < Infinity ? `: ${left.left} lines are missing` : ''}`,
        number,
      );
    close(left);
  }
}

function opened(struct: Struct, rules: readonly Rule[], rule: Rule | null, left: number): Open {
  return { struct, rules, rule, left, columns: new Map(), structs: new Map() };
}

function readLine(reading: Reading, open: Open[], words: string[], number: number): void {
  const inner = open[open.length - 1] as Open;
  const block = inner.rule?.block;
  if (block && block.end !== '' && block.end !== 'next' && words[0] === block.end) {
    close(open.pop() as Open);
    return;
  }
  const opens = words[words.length - 1] === '{';
  if (opens) words.pop();
  // Lines of an open end belong to what is around it where no rule of its own fits.
  for (let depth = open.length - 1; depth >= 0; depth--) {
    const holder = open[depth] as Open;
    const rule = ruleFor(holder.rules, words);
    if (rule) {
      if (depth < open.length - 1 && rule === (open[depth + 1] as Open).rule)
        while (open.length > depth + 1) close(open.pop() as Open);
      take(reading, open, holder, rule, words, number);
      break;
    }
    if (holder.rule?.block?.end !== 'next') {
      if (opens) throw new SheetError(`no rule opens a block with “${words[0] ?? ''}”`);
      break;
    }
  }
  countDown(open, inner);
}

/** One line less to come, of a block whose lines are counted; those of blocks in it do not count. */
function countDown(open: Open[], inner: Open): void {
  if (inner.left === Infinity) return;
  inner.left--;
  if (inner.left === 0 && open[open.length - 1] === inner) close(open.pop() as Open);
}

function ruleFor(rules: readonly Rule[], words: readonly string[]): Rule | undefined {
  return (
    rules.find(({ keyword }) => keyword.length > 0 && keyword.every((word, at) => word === words[at])) ??
    rules.find(({ keyword }) => keyword.length === 0)
  );
}

function take(
  reading: Reading,
  open: Open[],
  holder: Open,
  rule: Rule,
  words: readonly string[],
  number: number,
): void {
  const rest = words.slice(rule.keyword.length);
  reading.trace?.line(rule.name, number);
  if (!rule.block && !rule.isSingle) {
    let columns = holder.columns.get(rule);
    if (!columns) holder.columns.set(rule, (columns = new LineColumns(reading.budget)));
    columns.add(rule.read, rest, number);
    return;
  }
  const known = holder.structs.get(rule) ?? [];
  if (rule.isSingle && known.length > 0) throw new SheetError(`there is a second line “${rule.name}”`);
  const struct = new Struct(reading, holder.struct, 0, known.length);
  reading.budget.allocate(256);
  struct.values.line = number;
  rule.read(rest, (name, value) => {
    struct.values[name] = Array.isArray(value) ? new List(value) : value;
  });
  known.push(struct);
  holder.structs.set(rule, known);
  // Lines that come later may count by it.
  if (rule.isSingle) holder.struct.values[rule.name] = struct;
  const { block } = rule;
  if (!block) return;
  const left = block.count ? wholeNumber(block.count(struct), 'a count of') : Infinity;
  if (left === 0) return;
  reading.budget.enter();
  open.push(opened(struct, block.rules, rule, left));
}

function close({ struct, rules, columns, structs }: Open): void {
  for (const rule of rules) {
    const several = structs.get(rule);
    let value: Value = several ? new List(several) : (columns.get(rule)?.finish(struct) ?? new List([]));
    if (rule.isSingle) value = several?.[0] ?? null;
    struct.values[rule.name] = value;
  }
  if (struct.parent) struct.reading.budget.leave();
}
