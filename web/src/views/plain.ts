/** Views of less quality for tests and weak machines: no antialiasing, no shadows. */
export const plain = new URLSearchParams(location.search).has("plain");
