// What cannot glide: a shape, a mode, a time. What sounds fades out, the setting changes while nothing of it is heard, and it fades in.
import { advance, aim, glideAt, type Glide } from './glide.ts';

export type Switched<T> = {
  /** What sounds. */
  now: T;
  /** What is wanted. */
  wanted: T;
  /** 1 while it stands. */
  readonly fade: Glide;
};

export const switched = <T>(value: T): Switched<T> => ({ now: value, wanted: value, fade: glideAt(1) });

/** Sets what is wanted: at once with `snap`, or where nothing has to change, else behind a fade. */
export function turn<T>(one: Switched<T>, wanted: T, { snap, same }: { readonly snap: boolean; readonly same: boolean }): void {
  one.wanted = wanted;
  if (snap || same) one.now = wanted;
  if (!snap && !same) aim(one.fade, 0, false);
}

/** Changes over where it has faded out, and lets it fade in again; whether it did. */
export function changeOver<T>(one: Switched<T>): boolean {
  if (one.fade.value !== 0 || one.fade.left !== 0) return false;
  one.now = one.wanted;
  aim(one.fade, 1, false);
  return true;
}

/** One period further; what the fade was before, and whether it moved. */
export function stepFade<T>({ fade }: Switched<T>): { readonly was: number; readonly moved: boolean } {
  const was = fade.value;
  return { was, moved: advance(fade) };
}

/** Takes over what another plan's was. */
export function adoptSwitched<T>(one: Switched<T>, before: Switched<T>): void {
  Object.assign(one.fade, before.fade);
  one.now = before.now;
  one.wanted = before.wanted;
}

/** The objects of it that change, for the journal. */
export const partsOf = <T>(one: Switched<T>): object[] => [one, one.fade];
