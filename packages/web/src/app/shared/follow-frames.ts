/**
 * Tells the time of every frame that an element really shows, in seconds, where the browser says so, and the clock's elsewhere and
 * for sound. Gives what ends it.
 */
export function followFrames(element: HTMLVideoElement, sound: boolean, show: (seconds: number) => void): () => void {
  if (!sound && 'requestVideoFrameCallback' in element) {
    let handle = 0;
    const next = (_now: number, { mediaTime }: VideoFrameCallbackMetadata) => {
      show(mediaTime);
      handle = element.requestVideoFrameCallback(next);
    };
    handle = element.requestVideoFrameCallback(next);
    return () => element.cancelVideoFrameCallback(handle);
  }
  const tick = () => show(element.currentTime);
  element.addEventListener('timeupdate', tick);
  element.addEventListener('seeked', tick);
  return () => {
    element.removeEventListener('timeupdate', tick);
    element.removeEventListener('seeked', tick);
  };
}

/** The frame that is shown at a time; a time stamp may be rounded to just before its frame. */
export const frameAt = (seconds: number, { num, den }: { readonly num: number; readonly den: number }): number =>
  Math.floor((seconds * num) / den + 0.01);

/**
 * Where to seek to so that a frame is shown: a quarter into it. Its first instant may land on the one before; its middle is taken for
 * the next one by a browser that rounds to a file's clock where that ticks once a frame, and if the next is a key frame, is shown as it.
 */
export const secondsInto = (frame: number, { num, den }: { readonly num: number; readonly den: number }): number =>
  ((frame + 0.25) * den) / num;
