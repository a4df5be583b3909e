import proj4 from 'proj4';

/** The coordinate system of the island, and longitude and latitude. */
export const EPSG = 32628;
export const UTM = '+proj=utm +zone=28 +datum=WGS84 +units=m +no_defs';
export const LONLAT = '+proj=longlat +datum=WGS84 +no_defs';

/** Longitude and latitude of a place, and back. */
export const toGeographic = (x: number, y: number): [number, number] => proj4(UTM, LONLAT, [x, y]) as [number, number];
export const toProjected = (lon: number, lat: number): [number, number] => proj4(LONLAT, UTM, [lon, lat]) as [number, number];
