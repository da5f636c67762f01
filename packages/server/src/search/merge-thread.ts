import { parentPort } from 'node:worker_threads';
import { mergeOf, type MergePlan } from '@larder/core/search';

/** Merges what it is sent, once, beside the thread that answers questions; both see the same memory. */
const port = parentPort;
if (!port) throw new Error('merging runs as a worker thread');
port.once('message', (plan: MergePlan) => {
  port.postMessage(mergeOf(plan));
  port.close();
});
