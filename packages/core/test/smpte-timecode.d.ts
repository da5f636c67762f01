declare module 'smpte-timecode' {
  export default class Timecode {
    constructor(frames: number, rate: number, dropFrame: boolean);
    toString(): string;
  }
}
