export * from './clusters';
export * from './geodesic';
export * from './position';
