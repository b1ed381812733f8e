/** Kinds of number that fields take, with what their units are worth. */
export type Kind = "time" | "length" | "angle" | "percent" | "number" | "millimetres" | "stops";

interface Context {
  rate: number; // frames a second, for seconds
}

/** Value of one of each unit, in the unit that the document keeps. */
function units(kind: Kind, c: Context): Record<string, number> {
  switch (kind) {
    case "time": // frames
      return { f: 1, s: c.rate };
    case "length": // metres
      return { m: 1, cm: 0.01, mm: 0.001, in: 0.0254 };
    case "millimetres": // millimetres of a lens
      return { mm: 1, cm: 10, in: 25.4 };
    case "angle": // turns
      return { turn: 1, turns: 1, deg: 1 / 360, "°": 1 / 360, rad: 1 / (2 * Math.PI) };
    case "percent":
      return { "%": 1 };
    default:
      return {};
  }
}

export type Parsed = { ok: true; value: number } | { ok: false; reason: string };

/**
 * Reads what was typed into a field: numbers with a decimal point or comma, + - * /, brackets and
 * units. Numbers without a unit are in the field's own; a unit at the very end, where there is no
 * other, counts for the whole ("1/3 turn").
 */
export function parseQuantity(text: string, kind: Kind, own: string, c: Context): Parsed {
  const known = units(kind, c);
  const tokens = text.trim().match(/\d+(?:[.,]\d*)?(?:e[+-]?\d+)?|[.,]\d+|[a-z%°]+|[-+*/()]|\S/gi) ?? [];
  if (tokens.length === 0) return { ok: false, reason: "Type a number." };
  const isUnit = (t: string | undefined) => t !== undefined && /^[a-z%°]+$/i.test(t);
  for (const t of tokens)
    if (isUnit(t) && !(t.toLowerCase() in known)) {
      const list = Object.keys(known).filter((u) => u !== "turns");
      return {
        ok: false,
        reason: list.length
          ? `“${t}” is no unit here; there are ${list.join(", ")}.`
          : `“${t}” is no number.`,
      };
    }
  const worth = (u: string) => known[u.toLowerCase()] ?? 1;
  const unitCount = tokens.filter(isUnit).length;
  const last = tokens[tokens.length - 1];
  let whole = own in known ? worth(own) : 1;
  if (unitCount === 1 && isUnit(last)) {
    whole = worth(last!);
    tokens.pop();
  }
  const mixed = unitCount > 1 || (unitCount === 1 && !isUnit(last));
  let at = 0;
  const fail = (reason: string): never => {
    throw new Error(reason);
  };
  const factor = (): number => {
    const t = tokens[at++];
    if (t === "-") return -factor();
    if (t === "+") return factor();
    let v: number;
    if (t === "(") {
      v = sum();
      if (tokens[at++] !== ")") fail("A bracket is not closed.");
    } else {
      v = Number((t ?? "").replace(",", "."));
      if (t === undefined || Number.isNaN(v))
        fail(t === undefined ? "A number is missing at the end." : `“${t}” is no number.`);
    }
    if (isUnit(tokens[at])) v *= worth(tokens[at++]!) / (mixed ? whole : 1);
    return v;
  };
  const product = (): number => {
    let v = factor();
    while (tokens[at] === "*" || tokens[at] === "/") v = tokens[at++] === "*" ? v * factor() : v / factor();
    return v;
  };
  const sum = (): number => {
    let v = product();
    while (tokens[at] === "+" || tokens[at] === "-") v = tokens[at++] === "+" ? v + product() : v - product();
    return v;
  };
  try {
    const v = sum() * whole;
    if (at < tokens.length) return { ok: false, reason: `“${tokens[at]}” does not belong there.` };
    if (!Number.isFinite(v)) return { ok: false, reason: "That is not a finite number." };
    return { ok: true, value: v };
  } catch (e) {
    return { ok: false, reason: (e as Error).message };
  }
}

/** Writes a value in a unit, with no more digits than it needs. */
export function formatQuantity(value: number, kind: Kind, own: string, digits = 4): string {
  const w = units(kind, { rate: 24 })[own] ?? 1;
  const v = value / w;
  const rounded = Math.abs(v) >= 1e6 ? v.toPrecision(7) : v.toFixed(digits);
  return String(Number(rounded));
}
