// What a channel can be in the music, and which of its fields are marked when a person sets them.

/** Roles in the order in which an engineer lays them out. */
export const ROLES = [
  { id: 'drum', word: 'Drums' },
  { id: 'percussion', word: 'Percussion' },
  { id: 'pan', word: 'Pans, mallets' },
  { id: 'bass', word: 'Bass' },
  { id: 'guitar', word: 'Guitar' },
  { id: 'keys', word: 'Keys' },
  { id: 'synth', word: 'Synth' },
  { id: 'strings', word: 'Strings' },
  { id: 'brass', word: 'Brass' },
  { id: 'wind', word: 'Woodwind' },
  { id: 'choir', word: 'Choir' },
  { id: 'backing', word: 'Backing voice' },
  { id: 'voice', word: 'Voice' },
  { id: 'speech', word: 'Speech' },
  { id: 'effect', word: 'Effect' },
  { id: 'room', word: 'Room' },
  { id: 'key', word: 'Click, key' },
  { id: 'reference', word: 'Reference' }
] as const;

export type Role = (typeof ROLES)[number]['id'];
export const isRole = (id: string): id is Role => ROLES.some((role) => role.id === id);
export const roleWord = (id: string): string => ROLES.find((role) => role.id === id)?.word ?? '';

/** Fields that a rule may fill, but only until a person has set them. */
export const HAND_FIELDS = ['name', 'colour', 'role', 'output', 'pan'] as const;
export type HandField = (typeof HAND_FIELDS)[number];

export const setByHand = (channel: { readonly byHand: string }, field: HandField): boolean => channel.byHand.split(' ').includes(field);
/** `byHand` with one field more, in the order of `HAND_FIELDS`. */
export const withHand = (byHand: string, field: HandField): string =>
  HAND_FIELDS.filter((name) => name === field || byHand.split(' ').includes(name)).join(' ');

export const FILTER_FIELDS = ['text', 'kind', 'role', 'family', 'to', 'width'] as const;
