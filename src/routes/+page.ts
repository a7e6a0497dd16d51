// The front door: all sessions. The page alone draws it.
export const ssr = false;
