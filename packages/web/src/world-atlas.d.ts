/** The outlines as data; their type is told here, since reading it from the data takes the compiler long. */
declare module 'world-atlas/countries-50m.json' {
  import type { GeometryCollection, Topology } from 'topojson-specification';
  const world: Topology<{ countries: GeometryCollection }>;
  export default world;
}
