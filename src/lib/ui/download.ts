// Handing something to the person as a file.

/** Offers `value` as a JSON file; −∞ is "-inf". */
export function downloadJson(name: string, value: unknown): void {
  const text = JSON.stringify(value, (_, inner: unknown) => (inner === -Infinity ? '-inf' : inner), 1);
  const address = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
  const link = Object.assign(document.createElement('a'), { href: address, download: name.replace(/[^\p{L}\p{N} ._-]+/gu, '_') });
  link.click();
  URL.revokeObjectURL(address);
}
