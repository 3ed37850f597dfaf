import { spawn, type ChildProcess } from 'node:child_process';
import { createInterface } from 'node:readline';

/**
 * A small process that starts programs, one after the other, and ends with this one. Started from here each of them would cost
 * twenty milliseconds, in which nothing else is done: what a large process has in memory is mapped anew for its child.
 */
export class SmallShell {
  private child: ChildProcess | null = null;
  private waiting: { settle: (code: number) => void; reject: (error: Error) => void }[] = [];

  /**
   * @param command a program and what it is given; nothing of it is looked at by the shell
   * @param complaints a file that what it says of errors goes to
   * @returns what it ended with; 137 where it took longer than it may
   */
  run(command: readonly [string, ...string[]], complaints: string, seconds: number): Promise<number> {
    const child = (this.child ??= this.start());
    const words = ['timeout', '-s', 'KILL', String(seconds), ...command].map(quoted).join(' ');
    return new Promise((settle, reject) => {
      this.waiting.push({ settle, reject });
      hold(child, true);
      child.stdin?.write(`${words} </dev/null >/dev/null 2>${quoted(complaints)}; echo $?\n`);
    });
  }

  private start(): ChildProcess {
    const child = spawn('sh', [], { stdio: ['pipe', 'pipe', 'ignore'] });
    const end = (error: Error): void => {
      if (this.child !== child) return;
      this.child = null;
      for (const { reject } of this.waiting.splice(0)) reject(error);
    };
    child.on('error', end);
    child.on('exit', () => end(new Error('the shell that starts programs has ended')));
    child.stdin.on('error', () => undefined);
    createInterface(child.stdout).on('line', (line) => {
      this.waiting.shift()?.settle(Number(line));
      if (this.waiting.length === 0) hold(child, false);
    });
    return child;
  }
}

/** While somebody waits for it, this process stays for it. */
function hold(child: ChildProcess, isHeld: boolean): void {
  const ends = [child, child.stdin, child.stdout] as unknown as { ref(): void; unref(): void }[];
  for (const end of ends)
    if (isHeld) end.ref();
    else end.unref();
}

function quoted(word: string): string {
  return `'${word.replaceAll("'", "'\\''")}'`;
}
