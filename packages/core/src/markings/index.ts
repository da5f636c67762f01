/** Markings: colours with names, put on assets by hand or by a rule, and shown wherever the asset is. */
export { markingSchema, type Marking, type NewMarking } from './schema';
export { MarkingRules } from './rules';
