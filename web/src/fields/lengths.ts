/** The unit that suits a length in metres: its name, how many of it a metre is, and how a field shows it. */
export const unitOf = (metres: number) =>
  Math.abs(metres) >= 10
    ? ({ unit: "m", one: 1, digits: 3, step: 0.1 } as const)
    : ({ unit: "mm", one: 1000, digits: 2, step: 1 } as const);

/** Lengths in metres in words, in the unit that suits the largest: "120 × 40.5 mm". */
export function lengths(metres: readonly number[], between = " × ", digits = 5): string {
  const { unit, one } = unitOf(Math.max(...metres.map(Math.abs)));
  const text = metres.map((v) => (Math.abs(v) < 1e-8 ? 0 : Number((v * one).toPrecision(digits))));
  return `${text.join(between)} ${unit}`;
}
