/** What pictures look like and sound sounds like, in few bytes that hardly change with the form in which they are kept. */
export {
  areNear,
  distanceOf,
  isSame,
  LENGTH_TOLERANCE_MS,
  pictureDistance,
  soundDistance,
  type Distance,
  type Semblance,
  type Sense,
} from './compare';
export { PICTURE_BYTES, pictureHash, type Pixels } from './picture';
export { spreadWords } from './sound';
