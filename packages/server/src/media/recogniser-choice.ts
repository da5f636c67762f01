import { object, string, array, type InferType } from 'yup';
import { checked, readJson } from './chosen';
import { POCKETSPHINX, type Recogniser } from './recogniser';
import { programRecogniser } from './recogniser-program';
import { remoteRecogniser } from './recogniser-remote';

const named = {
  /** What stands with each transcript as what made it. */
  name: string().trim().min(1).max(100).required('“name” is missing: what made a transcript is kept with it.'),
  /** As BCP 47 has it. */
  language: string()
    .max(35)
    .matches(/^[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*$/, '“language” is no language such as en-GB.')
    .default('und'),
};

const programSchema = object({
  ...named,
  program: string().min(1).max(4000).required(),
  arguments: array(string().max(4000).defined()).max(100).default(['{sound}']),
}).noUnknown('There is something else in it: ${unknown}.');

const remoteSchema = object({
  ...named,
  url: string()
    .max(2000)
    .matches(/^https?:\/\/[^\s]+$/, '“url” is no address such as http://10.0.0.5:4390.')
    .required(),
}).noUnknown('There is something else in it: ${unknown}.');

/** What writes down what is said instead of the recogniser that ships: a program on this machine, or one that is asked over the network. */
export type RecogniserChoice = InferType<typeof programSchema> | InferType<typeof remoteSchema>;

/** Reads the choice from the text of its file. Throws an error that says what is wrong with it. */
export function readRecogniserChoice(text: string): RecogniserChoice {
  const said = readJson(text);
  const [isProgram, isRemote] = ['program', 'url'].map(
    (key) => typeof said === 'object' && said !== null && key in said,
  );
  if (isProgram === isRemote) throw new Error('It needs either “program”, a path, or “url”, an address, and not both.');
  return checked(isProgram ? programSchema : remoteSchema, said);
}

export const recogniserOf = (choice: RecogniserChoice | null): Recogniser =>
  choice === null ? POCKETSPHINX : 'program' in choice ? programRecogniser(choice) : remoteRecogniser(choice);
