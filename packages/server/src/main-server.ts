import { serve, type ServeOptions } from './serve';

/** The server as a process of its own; its options come from whoever starts it, and it says when it is ready. */
const options = JSON.parse(process.env['LARDER_SERVER'] ?? '{}') as Omit<ServeOptions, 'log'>;
const log = (line: string): void => void process.stderr.write(`${new Date().toISOString()} ${line}\n`);

try {
  const serving = await serve({ ...options, log });
  const stop = () => void serving.stop().finally(() => process.exit(0));
  for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, stop);
  process.send?.({ ready: true, port: serving.port });
} catch (error) {
  const { code } = error as NodeJS.ErrnoException;
  process.send?.({ ready: false, code: code ?? null, message: error instanceof Error ? error.message : String(error) });
  log(error instanceof Error ? (error.stack ?? error.message) : String(error));
  process.exit(1);
}
