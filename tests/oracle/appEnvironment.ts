// The framework's word on where code runs, for tests in Node: nothing is being built.
export const building = false;
