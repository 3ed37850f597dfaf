import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { applicationRoot } from '../platform/application-root.ts';
import type { FromReader, ToReader } from './operations.ts';

/** What one reader may take, in all: the system refuses it more, and a whole that is larger is ended. */
export const readerBytes = 3 * 1024 ** 3;
const heapMegabytes = 768;
const pageBytes = 4096;
/** A reader that has grown to this is replaced by a new one after its task: libraries do not give back what they took. */
const recycleBytes = 700 * 1024 ** 2;
const recycleTasks = 20_000;

/** A process that reads. It listens to one pool at a time. */
export class ReaderProcess {
  /** Called with what it says. */
  onMessage: (message: FromReader) => void = () => undefined;
  /** Called when it has ended by itself, with what is known of why. */
  onEnd: (reason: string) => void = () => undefined;
  private readonly child: ChildProcess;
  private tasks = 0;
  private hasEnded = false;

  constructor(memoryBytes: number) {
    // It ends with the thread that started it, however that ends: it may be in the middle of native code that hears nothing.
    const limits = ['--pdeathsig', 'KILL', '--', 'prlimit', `--data=${memoryBytes}`, '--core=0', '--'];
    const program = [
      process.execPath,
      `--max-old-space-size=${heapMegabytes}`,
      join(applicationRoot, 'dist', 'node', 'reader-process.js'),
    ];
    this.child = spawn('setpriv', [...limits, ...program], {
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
      serialization: 'advanced',
      // Keys of the keyring and addresses of databases are no affair of what decodes strangers' files.
      env: { PATH: process.env.PATH ?? '', LC_ALL: 'C.UTF-8', HOME: '/nonexistent' },
    });
    this.child.on('message', (message) => this.onMessage(message as FromReader));
    this.child.on('error', (error) => this.end(error.message));
    this.child.on('exit', (code, signal) =>
      this.end(signal ? `it was ended by ${signal}` : `it ended with ${code ?? 'nothing'}`),
    );
    this.child.unref();
    this.child.channel?.unref();
  }

  post(message: ToReader): void {
    if (message.type === 'run') this.tasks++;
    // Whoever has ended says so by `onEnd`; a message that is lost on the way there is no error of its own.
    if (!this.hasEnded) this.child.send(message, () => undefined);
  }

  /** Bytes that it has in memory now; 0 where it has ended. */
  memoryBytes(): number {
    try {
      const [, resident] = readFileSync(`/proc/${this.child.pid ?? 0}/statm`, 'utf8').split(' ');
      return Number(resident) * pageBytes;
    } catch {
      // It has ended, and its place in /proc with it.
      return 0;
    }
  }

  get pid(): number | undefined {
    return this.child.pid;
  }

  get isAlive(): boolean {
    return !this.hasEnded;
  }

  /** Whether it should make room for a new one. */
  get isWorn(): boolean {
    return this.tasks >= recycleTasks || this.memoryBytes() > recycleBytes;
  }

  /** Ends it at once, whatever it is in the middle of. */
  kill(): void {
    this.hasEnded = true;
    this.child.kill('SIGKILL');
  }

  /** While somebody waits for it, the process that started it stays for it. */
  hold(isHeld: boolean): void {
    if (isHeld) this.child.channel?.ref();
    else this.child.channel?.unref();
  }

  private end(reason: string): void {
    if (this.hasEnded) return;
    this.hasEnded = true;
    this.onEnd(reason);
  }
}

/** What decoding needs of its process. */
export interface DecodeServices {
  processes: ReaderProcesses;
}

/** Readers between their tasks: starting one takes as long as reading a hundred pictures. */
export class ReaderProcesses {
  private readonly keepMs: number;
  readonly memoryBytes: number;
  private idle: ReaderProcess[] = [];
  private timer: NodeJS.Timeout | null = null;

  /**
   * @param keepMs how long readers without work are kept
   * @param memoryBytes what each of them may take
   */
  constructor(keepMs: number, memoryBytes = readerBytes) {
    this.keepMs = keepMs;
    this.memoryBytes = memoryBytes;
  }

  take(): ReaderProcess {
    if (this.timer) clearTimeout(this.timer);
    const kept = this.idle.pop();
    return kept?.isAlive ? kept : new ReaderProcess(this.memoryBytes);
  }

  /** @param reader one that has nothing left to do */
  giveBack(reader: ReaderProcess): void {
    reader.onMessage = () => undefined;
    reader.onEnd = () => undefined;
    if (reader.isWorn || this.keepMs === 0) reader.kill();
    else this.idle.push(reader);
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => this.close(), this.keepMs);
    this.timer.unref();
  }

  close(): void {
    if (this.timer) clearTimeout(this.timer);
    for (const reader of this.idle.splice(0)) reader.kill();
  }
}
