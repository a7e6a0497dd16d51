// The clipboard, as far as the browser lets a page have it: over plain HTTP it may be written to by an older way, and not read.

/** Puts text on the clipboard, from within what a person has just done; whether that was allowed. */
export const copyText = async (text: string): Promise<boolean> => {
  if (!navigator.clipboard) return copyBySelection(text);
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch (error) {
    if (error instanceof DOMException || error instanceof TypeError) return false;
    throw error;
  }
};

/** The text on the clipboard, or `own`, which was copied on this page last, where reading it is not allowed. */
export const textCopied = async (own: string): Promise<string> => {
  if (!navigator.clipboard) return own;
  try {
    return await navigator.clipboard.readText();
  } catch (error) {
    if (error instanceof DOMException || error instanceof TypeError) return own;
    throw error;
  }
};

function copyBySelection(text: string): boolean {
  const before = document.activeElement;
  const holder = document.createElement('textarea');
  holder.value = text;
  holder.style.position = 'fixed';
  // Behind an open dialog nothing can be selected.
  ([...document.querySelectorAll('dialog:modal')].at(-1) ?? document.body).append(holder);
  holder.select();
  try {
    return document.execCommand('copy');
  } finally {
    holder.remove();
    if (before instanceof HTMLElement) before.focus({ preventScroll: true });
  }
}
