import { mkdir, readdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import type { SimulatedVolume } from '@larder/contract';
import { notFound, refused } from '../store/errors';

export interface SimulatedPlaces {
  /** Where volumes lie that are not plugged in. */
  readonly drawer: string;
  /** The folder of the places at which they can be plugged in; each place is a folder that appears with its volume. */
  readonly slots: string;
  readonly slotNames: readonly string[];
}

/**
 * Stands in for card readers and disk bays: a volume is a folder that goes from the drawer to a slot and back. Files that are
 * open at that moment stay readable until they are closed; everything else is gone at once, as with a real one.
 */
export class SimulatedVolumes {
  constructor(private readonly places: SimulatedPlaces) {}

  get slots(): readonly string[] {
    return this.places.slotNames;
  }

  /** Volumes in the drawer, and those in slots, by name. */
  async list(): Promise<SimulatedVolume[]> {
    const { drawer, slots, slotNames } = this.places;
    const lying = (await readdir(drawer).catch(() => [])).map((name) => ({ name, slot: null }));
    const plugged: SimulatedVolume[] = [];
    for (const slot of slotNames)
      for (const name of await readdir(join(slots, slot)).catch(() => [])) plugged.push({ name, slot });
    return [...lying, ...plugged].sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  /** Plugs a volume in at a slot, moves it to another, or with null pulls it. */
  async put(name: string, slot: string | null): Promise<void> {
    const volume = (await this.list()).find((each) => each.name === name);
    if (!volume) throw notFound('volume');
    if (volume.slot === slot) return;
    if (slot !== null && !this.places.slotNames.includes(slot)) throw notFound('slot');
    if (slot !== null && (await this.list()).some((each) => each.slot === slot))
      throw refused(`There is something in ${slot} already. Pull it first.`);
    const at = (where: string | null) =>
      where === null ? join(this.places.drawer, name) : join(this.places.slots, where, name);
    await mkdir(join(at(slot), '..'), { recursive: true });
    await rename(at(volume.slot), at(slot));
  }
}
