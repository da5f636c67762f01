import { spawn, type ChildProcess } from 'node:child_process';
import type { Readable } from 'node:stream';

export interface RunOptions {
  readonly signal?: AbortSignal;
  /** The process is killed after this long; a tool that hangs on a crafted file must not hang the library. */
  readonly timeoutMs: number;
  /** The process gets no more memory than this, and fails if it wants more. */
  readonly memoryBytes?: number;
  /** Output beyond this many bytes kills the process. */
  readonly maxOutputBytes?: number;
  /** Gives what of a line of standard error tells why something failed; null for nothing. Without it every line does. */
  readonly errorLine?: (line: string) => string | null;
  /** Called with each piece of standard output; it is then not collected. */
  readonly onOutput?: (piece: Buffer) => void;
  /** Called with each piece of what the tool writes to descriptor 3. */
  readonly onExtra?: (piece: Buffer) => void;
}

/** A tool that did not do its work: how it ended and what it said last. */
export class ToolError extends Error {
  constructor(
    readonly tool: string,
    readonly reason: 'failed' | 'timeout' | 'cancelled' | 'too-much-output' | 'not-found',
    readonly said: string,
  ) {
    super(reason === 'failed' ? said || `${tool} failed` : `${tool}: ${reason}`);
  }
}

const KEPT_ERROR_CHARACTERS = 4000;
const DEFAULT_MEMORY_BYTES = 4 * 1024 ** 3;
/** What `prlimit` says when the tool that it was to start is not there. */
const NOT_FOUND = /^prlimit: failed to execute .*: No such file or directory/m;

/** Keeps the last lines that tell why something failed. */
class ErrorLog {
  private rest = '';
  private kept = '';

  constructor(private readonly take: (line: string) => string | null) {}

  add(piece: string): void {
    const lines = (this.rest + piece).split(/[\r\n]+/);
    this.rest = (lines.pop() ?? '').slice(-KEPT_ERROR_CHARACTERS);
    lines.forEach((line) => this.line(line));
  }

  end(): string {
    if (this.rest) this.line(this.rest);
    this.rest = '';
    return this.kept.trim();
  }

  private line(line: string): void {
    const said = this.take(line);
    if (said !== null) this.kept = `${this.kept}${said}\n`.slice(-KEPT_ERROR_CHARACTERS);
  }
}

/** Starts a tool without a shell, within a limit of memory; it is told nothing of this process's surroundings. */
function start(tool: string, args: readonly string[], memoryBytes: number, extra: boolean): ChildProcess {
  return spawn('prlimit', [`--as=${memoryBytes}`, '--core=0', '--', tool, ...args], {
    stdio: ['ignore', 'pipe', 'pipe', extra ? 'pipe' : 'ignore'],
    env: { PATH: process.env['PATH'], LC_ALL: 'C.UTF-8' },
  });
}

/**
 * Starts a tool whose output goes straight on to somebody who reads at their own pace; ended by its end or by the signal.
 * `ended` gives true if the tool did its work.
 */
export function stream(
  tool: string,
  args: readonly string[],
  signal: AbortSignal,
  memoryBytes = DEFAULT_MEMORY_BYTES,
): { readonly output: Readable; readonly ended: Promise<boolean> } {
  const child = start(tool, args, memoryBytes, false);
  child.stderr?.resume();
  const stop = () => child.kill('SIGKILL');
  signal.addEventListener('abort', stop, { once: true });
  const ended = new Promise<boolean>((resolve) => {
    child.on('error', () => resolve(false));
    child.on('close', (code) => {
      signal.removeEventListener('abort', stop);
      resolve(code === 0);
    });
  });
  return { output: child.stdout as Readable, ended };
}

/** Runs a tool without a shell, within limits, and gives its standard output. Throws ToolError. */
export function run(tool: string, args: readonly string[], options: RunOptions): Promise<Buffer> {
  const { signal, timeoutMs, memoryBytes = DEFAULT_MEMORY_BYTES, maxOutputBytes = 64 * 1024 * 1024 } = options;
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(new ToolError(tool, 'cancelled', ''));
    const child = start(tool, args, memoryBytes, options.onExtra !== undefined);
    const [stdout, stderr] = [child.stdout as Readable, child.stderr as Readable];
    const pieces: Buffer[] = [];
    const errors = new ErrorLog(options.errorLine ?? ((line) => line));
    let bytes = 0;
    let ended: ToolError['reason'] | null = null;
    const stop = (reason: ToolError['reason']) => {
      ended ??= reason;
      child.kill('SIGKILL');
    };
    const timer = setTimeout(() => stop('timeout'), timeoutMs);
    const cancel = () => stop('cancelled');
    signal?.addEventListener('abort', cancel, { once: true });
    stdout.on('data', (piece: Buffer) => {
      bytes += piece.length;
      if (options.onOutput) options.onOutput(piece);
      else if (bytes > maxOutputBytes) stop('too-much-output');
      else pieces.push(piece);
    });
    stderr.setEncoding('utf8').on('data', (piece: string) => errors.add(piece));
    if (options.onExtra) (child.stdio[3] as Readable).on('data', options.onExtra);
    const finish = (settle: () => void) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', cancel);
      settle();
    };
    child.on('error', (error: NodeJS.ErrnoException) =>
      finish(() => reject(new ToolError(tool, error.code === 'ENOENT' ? 'not-found' : 'failed', error.message))),
    );
    child.on('close', (code) =>
      finish(() => {
        const said = errors.end();
        if (code === 0 && !ended) resolve(Buffer.concat(pieces));
        else reject(new ToolError(tool, ended ?? (NOT_FOUND.test(said) ? 'not-found' : 'failed'), said));
      }),
    );
  });
}
