// The guided path through the demo: on which step one is, remembered by the browser until one leaves it.
const KEY = 'demo-path';

type Place = { readonly session: string; readonly step: number };

function kept(): Place | null {
  const text = localStorage.getItem(KEY);
  if (!text) return null;
  const [session, step] = text.split(' ');
  return session && /^\d$/.test(step ?? '') ? { session, step: Number(step) } : null;
}

let place = $state.raw<Place | null>(typeof localStorage === 'undefined' ? null : kept());

const keep = (next: Place | null) => {
  place = next;
  if (next) localStorage.setItem(KEY, `${next.session} ${next.step}`);
  else localStorage.removeItem(KEY);
};

export const beginPath = (session: string): void => keep({ session, step: 0 });
export const leavePath = (): void => keep(null);
export const goToStep = (step: number): void => void (place && keep({ ...place, step }));
/** The step in this session; null where no path leads through it. */
export const stepIn = (session: string): number | null => (place?.session === session ? place.step : null);
