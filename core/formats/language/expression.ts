import jsep from 'jsep';
import type { SheetExpression } from '../../../contract/format-sheets.ts';
import { functions } from './functions.ts';
import { arithmetic, mapped, type Operator } from './arithmetic.ts';
import { SheetError } from './sheet-error.ts';
import { columnOf, countOf, itemOf, List, Rows, Struct, Table, type Value } from './values.ts';

/** Computes something of the fields that a structure sees. @throws SheetError */
export type Compute = (scope: Struct) => Value;

/** Words that no field can be called, since expressions have them. */
export const reservedWords: Readonly<Record<string, Compute>> = {
  here: ({ reading }) => reading.at,
  start: ({ start }) => start,
  index: ({ index }) => index,
  item: (scope) => itemOfScope(scope),
  previous: ({ reading }) => reading.previous,
  parent: ({ parent }) => parent,
  root: ({ reading }) => reading.root,
  file: ({ reading }) => reading.file.bytes,
  fileSize: ({ reading }) => reading.file.bytes.length,
  fileName: ({ reading }) => reading.path.slice(reading.path.lastIndexOf('/') + 1),
  filePath: ({ reading }) => reading.path,
  version: ({ reading }) => reading.version,
  little: () => 'little',
  big: () => 'big',
};

function itemOfScope(scope: Struct): Value {
  for (let struct: Struct | null = scope; struct; struct = struct.parent)
    if (struct.item !== null) return struct.item;
  return scope;
}

/** Longer ones are no formula of a person any more. */
const mostNodes = 2000;

/** @throws SheetError where it cannot be understood */
export function compileExpression(expression: SheetExpression): Compute {
  if (typeof expression !== 'string') return () => expression;
  let tree: jsep.Expression;
  try {
    tree = jsep(withDecimals(expression));
  } catch (error) {
    throw new SheetError(
      `“${expression}” cannot be understood: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const budget = { nodes: 0 };
  try {
    return compile(tree, budget);
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    throw new SheetError(`“${expression}”: ${error.message}`);
  }
}

/** Numbers of base 16 and 2 as those of 10, outside of quoted text. */
function withDecimals(expression: string): string {
  return expression.replace(/'[^']*'|"[^"]*"|\b0[xX][0-9a-fA-F]+\b|\b0[bB][01]+\b/g, (found) =>
    /^0/.test(found) ? BigInt(found).toString() : found,
  );
}

function compile(node: jsep.Expression, budget: { nodes: number }): Compute {
  if (++budget.nodes > mostNodes) throw new SheetError(`it has more than ${mostNodes} parts`);
  const next = (inner: unknown): Compute => compile(inner as jsep.Expression, budget);
  switch (node.type) {
    case 'Literal': {
      const value = node.value as Value;
      return () => value;
    }
    case 'Identifier':
      return identifier((node as jsep.Identifier).name);
    case 'ArrayExpression': {
      const parts = (node.elements as unknown[]).map(next);
      return (scope) => new List(parts.map((part) => part(scope)));
    }
    case 'UnaryExpression': {
      const operand = next(node.argument);
      return unary((node as jsep.UnaryExpression).operator, operand);
    }
    case 'LogicalExpression':
    case 'BinaryExpression': {
      const [left, right] = [next(node.left), next(node.right)];
      if (node.operator === '&&') return (scope) => (isTrue(left(scope)) ? right(scope) : false);
      if (node.operator === '||')
        return (scope) => {
          const value = left(scope);
          return isTrue(value) ? value : right(scope);
        };
      const sign = (node as jsep.BinaryExpression).operator;
      const operator = Object.hasOwn(arithmetic, sign) ? arithmetic[sign] : undefined;
      if (!operator) throw new SheetError(`there is no operator ${sign}`);
      return binary(operator, left, right);
    }
    case 'ConditionalExpression': {
      const [test, yes, no] = [next(node.test), next(node.consequent), next(node.alternate)];
      return (scope) => (isTrue(test(scope)) ? yes(scope) : no(scope));
    }
    case 'MemberExpression': {
      const object = next(node.object);
      if (node.computed !== true) return member(object, String((node.property as jsep.Identifier).name));
      const place = next(node.property);
      return (scope) => element(object(scope), place(scope));
    }
    case 'CallExpression': {
      const callee = node.callee as jsep.Expression;
      const name = callee.type === 'Identifier' ? (callee as jsep.Identifier).name : '';
      const called = Object.hasOwn(functions, name) ? functions[name] : undefined;
      if (!called) throw new SheetError(`there is no function ${name || 'here'}`);
      const parts = (node.arguments as unknown[]).map(next);
      const [least, most] = called.arguments;
      if (parts.length < least || parts.length > most)
        throw new SheetError(
          `${name} takes ${least === most ? least : `${least} to ${most}`} ${most === 1 ? 'value' : 'values'}, and has ${parts.length}`,
        );
      return (scope) => {
        scope.reading.budget.step(8);
        return called.run(
          parts.map((part) => part(scope)),
          scope,
        );
      };
    }
    default:
      throw new SheetError(
        `${node.type === 'Compound' ? 'several expressions' : node.type} cannot be used here`,
      );
  }
}

function identifier(name: string): Compute {
  const reserved = Object.hasOwn(reservedWords, name) ? reservedWords[name] : undefined;
  if (reserved) return reserved;
  if (name === 'null' || name === 'undefined') return () => null;
  return (scope) => {
    const value = scope.find(name);
    if (value === undefined) throw new SheetError(`there is no field ${name} here`);
    return value;
  };
}

function unary(operator: string, operand: Compute): Compute {
  switch (operator) {
    case '!':
      return (scope) => !isTrue(operand(scope));
    case '-':
      return binary(arithmetic['-'] as Operator, () => 0, operand);
    case '+':
      return operand;
    case '~':
      return (scope) => {
        const value = operand(scope);
        if (typeof value === 'number') return -value - 1;
        if (typeof value === 'bigint') return -value - 1n;
        throw new SheetError('~ is of a whole number');
      };
    default:
      throw new SheetError(`there is no operator ${operator}`);
  }
}

function binary(operator: Operator, left: Compute, right: Compute): Compute {
  return (scope) => {
    const [a, b] = [left(scope), right(scope)];
    if (typeof a === 'number' && typeof b === 'number') return operator.numbers(a, b);
    return mapped(operator, a, b, scope.reading.budget);
  };
}

function member(object: Compute, name: string): Compute {
  return (scope) => {
    const holder = object(scope);
    let value: Value | undefined;
    if (holder instanceof Struct) {
      value = holder.values[name];
      if (value === undefined && Object.hasOwn(reservedWords, name) && name !== 'root')
        value = reservedWords[name]?.(holder);
    } else if (holder instanceof Rows || holder instanceof Table) value = holder.column(name) ?? undefined;
    else if (holder instanceof List) value = columnOf(holder, name, scope.reading.budget) ?? undefined;
    if (name === 'length' && value === undefined) value = countOf(holder) ?? undefined;
    if (value === undefined) throw new SheetError(`there is no field ${name} in what it is asked of`);
    return value;
  };
}

function element(holder: Value, place: Value): Value {
  if (holder instanceof Struct && typeof place === 'string') {
    const value = holder.values[place];
    if (value === undefined) throw new SheetError(`there is no field ${place} in what it is asked of`);
    return value;
  }
  const count = countOf(holder);
  if (count === null) throw new SheetError('only lists have numbered things in them');
  const value = typeof place === 'number' ? itemOf(holder, place) : undefined;
  if (value === undefined)
    throw new SheetError(`there is no number ${shown(place)} in a list of ${count.toLocaleString('en')}`);
  return value;
}

export function isTrue(value: Value): boolean {
  return value !== null && value !== false && value !== 0 && value !== 0n && value !== '';
}

/** A value in a sentence. */
export function shown(value: Value | undefined): string {
  if (value === undefined || value === null) return 'nothing';
  if (typeof value === 'string') return `“${value.length > 60 ? `${value.slice(0, 60)}…` : value}”`;
  if (typeof value === 'number' && Number.isInteger(value)) return value.toLocaleString('en');
  if (typeof value === 'object') {
    const count = countOf(value);
    return count === null ? 'a structure' : `a list of ${count.toLocaleString('en')}`;
  }
  return String(value);
}

/** @throws SheetError */
export function wholeNumber(value: Value, what: string): number {
  const number = typeof value === 'boolean' ? Number(value) : value;
  if (typeof number === 'bigint' || (typeof number === 'number' && number < 0))
    throw new SheetError(`${what} ${number.toLocaleString('en')} cannot be`);
  if (typeof number !== 'number' || !Number.isSafeInteger(number))
    throw new SheetError(`${what} ${shown(number)} is no whole number`);
  return number;
}
