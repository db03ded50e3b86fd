// What page modules find around them in a browser, as little of it as they need to be imported.

globalThis.localStorage = { getItem: () => null };
globalThis.document = { documentElement: { dataset: {} }, addEventListener: () => {} };

// Numbers between 0 and 1 from a seed (the multiplicative generator of Park and Miller, 1988).
export function chance(seed) {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

export const at = (path) => import(new URL(`../../src/orvik/web/${path}`, import.meta.url).href);
