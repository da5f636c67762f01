import type { Place } from '../../script';
import { boatyard } from './boatyard';
import { foundry } from './foundry';
import { lock } from './lock';
import { kitchen, workshop } from './rooms';
import type { PlaceDrawing } from './scenery';
import { towpath, town } from './town';

export { NOTHING, type PlaceDrawing } from './scenery';

export const DRAWINGS: Readonly<Record<Place, PlaceDrawing>> = {
  lock,
  boatyard,
  foundry,
  towpath,
  town,
  kitchen,
  workshop,
};
