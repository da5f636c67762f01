import type { Light } from '../script';

/** The colours of a light: everything in a picture is drawn with these. */
export interface Palette {
  readonly skyTop: string;
  readonly skyLow: string;
  readonly far: string;
  readonly green: string;
  readonly dark: string;
  readonly wood: string;
  readonly stone: string;
  readonly water: string;
  readonly glint: string;
  readonly lamp: string;
  readonly ink: string;
}

export const PALETTES: Readonly<Record<Light, Palette>> = {
  dawn: {
    skyTop: '#b9c7d6',
    skyLow: '#f6dcc0',
    far: '#9fb0b3',
    green: '#7f9472',
    dark: '#4d5d54',
    wood: '#8a6a4f',
    stone: '#b7ada0',
    water: '#9db4bd',
    glint: '#fbeedb',
    lamp: '#f4c98a',
    ink: '#2f3338',
  },
  day: {
    skyTop: '#9cc3d8',
    skyLow: '#e6efe6',
    far: '#8fac9b',
    green: '#7c9d55',
    dark: '#476238',
    wood: '#9a6b3f',
    stone: '#c3b9a4',
    water: '#7fa6ab',
    glint: '#f3f8ee',
    lamp: '#f2d27a',
    ink: '#2b2e2b',
  },
  dusk: {
    skyTop: '#4c4a6b',
    skyLow: '#e59a66',
    far: '#6d5f74',
    green: '#5c6350',
    dark: '#3a3a42',
    wood: '#7b4f3a',
    stone: '#8d7a78',
    water: '#74687c',
    glint: '#f6b57e',
    lamp: '#ffc266',
    ink: '#221f2b',
  },
  night: {
    skyTop: '#131a2c',
    skyLow: '#2c3a55',
    far: '#1f2a3f',
    green: '#25343a',
    dark: '#141d26',
    wood: '#4a3a34',
    stone: '#4c525e',
    water: '#1d2b42',
    glint: '#f0c870',
    lamp: '#ffd37a',
    ink: '#0b0f17',
  },
  rain: {
    skyTop: '#8d979d',
    skyLow: '#bcc3c3',
    far: '#88938f',
    green: '#6f7f66',
    dark: '#4a564d',
    wood: '#6f5a48',
    stone: '#979890',
    water: '#7d8b8e',
    glint: '#d7dddb',
    lamp: '#e6cf9a',
    ink: '#2a2e30',
  },
  fire: {
    skyTop: '#2a1c18',
    skyLow: '#6a2f1a',
    far: '#3a2520',
    green: '#4b3527',
    dark: '#1f1512',
    wood: '#5a3826',
    stone: '#6d4a3a',
    water: '#8a3d1a',
    glint: '#ffb347',
    lamp: '#ff8a2b',
    ink: '#120c0a',
  },
};
