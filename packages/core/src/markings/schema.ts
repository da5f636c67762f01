import { object, string, type InferType } from 'yup';
import { trimmed } from '../fields';
import { MARKER_COLOURS, type MarkerColour } from '../markers';

/** What a marking is called, its colour, and the search whose assets have it by themselves; without one it is only put on by hand. */
export const markingSchema = object({
  name: trimmed()
    .max(60, 'The name of a marking has at most 60 characters.')
    .matches(/^[^",\n\r\t]*$/, 'The name of a marking is one line without commas or quotes.')
    .required('The marking needs a name.'),
  colour: string<MarkerColour>().oneOf(MARKER_COLOURS, 'That is no colour of markings.').default('none'),
  rule: trimmed().max(2000, 'A search has at most 2,000 characters.').default(''),
}).noUnknown();

export type NewMarking = InferType<typeof markingSchema>;
export interface Marking extends NewMarking {
  readonly id: number;
}
