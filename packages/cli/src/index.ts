export { main } from './main.ts';
export { DEFAULT_PORT, dataDirectory } from './places.ts';
