// How tables and columns are called in SQL.

/** "faderDb" is fader_db. */
export const snake = (name: string): string => name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);
export const quoted = (name: string): string => `"${snake(name)}"`;
