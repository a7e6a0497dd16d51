// Which key of the keyboard an event is of, whatever is held with it: Alt and Shift make other letters of digits on many layouts.

export const keyOf = ({ code, key }: Pick<KeyboardEvent, 'code' | 'key'>): string => {
  const plain = /^(?:Digit|Key|Numpad)([0-9A-Z])$/.exec(code);
  return plain ? plain[1].toLowerCase() : key;
};
