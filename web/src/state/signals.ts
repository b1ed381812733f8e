/** Something that happens once, and is heard by what shows it. */
export function signal<T = void>() {
  const heard = new Set<(v: T) => void>();
  return {
    tell: (v: T) => heard.forEach((f) => f(v)),
    hear: (f: (v: T) => void) => {
      heard.add(f);
      return () => void heard.delete(f);
    },
  };
}

export const drawn = signal(); // the bench has been drawn: what lies over it follows
export const centred = signal(); // the bench is to look at the selection
export const stepped = signal<number>(); // to the next pin or bar edge, or with -1 to the one before
export const movesAsked = signal(); // the menu of moves is to open
