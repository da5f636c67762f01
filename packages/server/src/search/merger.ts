import { Worker } from 'node:worker_threads';
import type { LibraryIndex, SegmentData } from '@larder/core/search';

/** Merges an index's segments in a thread of its own whenever that is due, one merge at a time. */
export class Merger {
  private working = false;

  constructor(
    private readonly script: string,
    private readonly index: LibraryIndex,
  ) {}

  /** True once something was merged; false if nothing was due, or it failed and the index stays as it is. */
  async mergeIfDue(): Promise<boolean> {
    if (this.working) return false;
    const plan = this.index.mergeDue();
    if (!plan) return false;
    this.working = true;
    // It goes when it is done, and what it worked with goes with it.
    const thread = new Worker(this.script);
    try {
      const merged = await new Promise<SegmentData>((resolve, reject) => {
        thread.once('message', resolve);
        thread.once('error', reject);
        thread.once('exit', () => reject(new Error('merging ended without a word')));
        thread.postMessage(plan);
      });
      this.index.adopt(plan, merged);
      return true;
    } catch {
      this.index.giveUp();
      return false;
    } finally {
      this.working = false;
      void thread.terminate();
    }
  }
}
