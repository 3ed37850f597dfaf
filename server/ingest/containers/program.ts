import { spawn, type ChildProcessByStdio } from 'node:child_process';
import { closeSync, openSync } from 'node:fs';
import { Readable, type Writable } from 'node:stream';
import { ContainerError } from '../../../core/containers/container-error.ts';
import { codeOf } from '../../platform/plain-error.ts';
import { pieces, type ByteSource } from './byte-source.ts';
import { sandboxed, sandboxProgram } from './sandbox.ts';

/** A program without any output for so long is taken to hang, where nobody says less. */
const usualSilenceMs = 120_000;
const errorCharacters = 4000;

export interface ProgramCall {
  program: string;
  args: readonly string[];
  /** What the program reads: a source, or a text such as a key, which no list of processes shows. */
  input: ByteSource | string;
  /** A file for a program that cannot read from a pipe; it sees it as `archivePath`. */
  file?: string;
  /** Lets bytes pass that a program gave before it failed; the caller checks them itself. */
  mayFail?: boolean;
  /** How long it may give nothing, in milliseconds. */
  silenceMs?: number;
  /** Ends the program at once. */
  signal?: AbortSignal | undefined;
}

/**
 * What a program writes, piece by piece. It runs in a sandbox that shows it its standard input and, where it needs one,
 * the archive's file, whatever an archive may talk it into. The program ends with whoever listens.
 * @throws ContainerError with what the program said, when it fails or hangs
 */
export async function* runProgram({
  program,
  args,
  input,
  file,
  mayFail,
  silenceMs = usualSilenceMs,
  signal,
}: ProgramCall): AsyncGenerator<Buffer> {
  signal?.throwIfAborted();
  const child = start(sandboxed(program, args, file ?? null), input);
  let errors = '';
  child.stderr.on('data', (piece: Buffer) => {
    if (errors.length < errorCharacters) errors += piece.toString('utf8');
  });
  const ended = new Promise<number | Error>((resolve) => {
    child.on('error', resolve);
    child.on('close', (code) => resolve(code ?? -1));
  });
  const end = (): void => void child.kill('SIGKILL');
  signal?.addEventListener('abort', end);
  let isSilent = false;
  let timer: NodeJS.Timeout | undefined;
  const listen = (): void => {
    clearTimeout(timer);
    timer = setTimeout(() => {
      isSilent = true;
      child.kill('SIGKILL');
    }, silenceMs);
  };
  listen();
  try {
    for await (const piece of child.stdout) {
      listen();
      yield piece as Buffer;
      listen();
    }
    const outcome = await ended;
    signal?.throwIfAborted();
    if (isSilent) throw new ContainerError(`${program} gave nothing more for ${silenceMs / 1000} seconds`);
    if (outcome instanceof Error) throw startFailure(program, outcome);
    if ((outcome !== 0 || errors.trim() !== '') && !mayFail)
      throw new ContainerError(`its data are damaged: ${said(program, errors, outcome)}`);
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener('abort', end);
    end();
  }
}

/** The whole output of a program, as text. @throws ContainerError when it is more than `limitBytes` */
export async function programText(call: ProgramCall, limitBytes = 512 * 1024 * 1024): Promise<string> {
  const parts: Buffer[] = [];
  let length = 0;
  for await (const piece of runProgram(call)) {
    length += piece.length;
    if (length > limitBytes) throw new ContainerError('its directory is too large to be read');
    parts.push(piece);
  }
  return Buffer.concat(parts).toString('utf8');
}

type Child = ChildProcessByStdio<Writable | null, Readable, Readable>;

function start(args: readonly string[], input: ByteSource | string): Child {
  const options = { cwd: '/', env: { PATH: process.env.PATH ?? '' } };
  if (typeof input !== 'string' && input.path !== null) {
    const file = openSync(input.path, 'r');
    try {
      return spawn(sandboxProgram, args, { ...options, stdio: [file, 'pipe', 'pipe'] }) as Child;
    } finally {
      closeSync(file);
    }
  }
  const child = spawn(sandboxProgram, args, { ...options, stdio: ['pipe', 'pipe', 'pipe'] });
  // A program that has read enough closes its end.
  child.stdin.on('error', () => undefined);
  if (typeof input === 'string') child.stdin.end(input);
  else Readable.from(pieces(input)).pipe(child.stdin);
  return child;
}

function startFailure(program: string, error: Error): ContainerError {
  return new ContainerError(
    codeOf(error) === 'ENOENT'
      ? `the program ${sandboxProgram}, which keeps ${program} away from other files, is not installed on this machine`
      : `the program ${program} could not be started: ${error.message}`,
  );
}

function said(program: string, errors: string, code: number): string {
  const lines = errors
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '' && !/^Break signaled|password \(will not/i.test(line));
  const [first] = lines;
  if (first === undefined) return `${program} ended with ${code}`;
  if (first.startsWith('prlimit: failed to execute'))
    return `the program ${program} is not installed on this machine`;
  return first.startsWith(program) ? first : `${program}: ${first}`;
}
