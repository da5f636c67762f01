/** XMP packets (ISO 16684-1): finding them in any file, reading what they say, and sidecars there and back. */
export * from './read';
export { XmpPacket, type PacketProperty, type PropertyForm } from './packet';
export { readSidecar, writeSidecar, type SidecarRead, type SidecarSaid } from './sidecar';
