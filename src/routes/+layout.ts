// The page alone draws everything, what is not there as well: nothing is rendered on the server.
export const ssr = false;
