/** What this browser remembers under a name, or something else where it remembers nothing. */
export function stored<T>(key: string, otherwise: T): T {
  try {
    const text = localStorage.getItem("perigyre." + key);
    return text === null ? otherwise : (JSON.parse(text) as T);
  } catch {
    return otherwise;
  }
}

/** Has this browser remember something under a name. */
export const remember = (key: string, what: unknown) =>
  localStorage.setItem("perigyre." + key, JSON.stringify(what));
