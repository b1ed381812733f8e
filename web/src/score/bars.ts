import type { Move } from "../api/types.gen";
import { moveName } from "../sheets/newMoves";

/** A move in few words, for its bar. */
export function words(m: Move): string {
  if (m.turntable) {
    const t = m.turntable;
    return `${t.moves === "camera" ? "Camera round" : "Turntable"} · ${t.turns} ${t.turns === 1 ? "turn" : "turns"} ${t.direction} · constant`;
  }
  const num = (v: number) => Number(v.toFixed(3));
  const pace =
    !m.pace.kind || m.pace.kind === "constant"
      ? "constant"
      : m.pace.kind === "bezier"
        ? "eased"
        : m.pace.kind;
  if (m.turn)
    return `Turn · ${num(m.turn.turns)} ${m.turn.turns === 1 ? "turn" : "turns"} ${m.turn.direction} · ${pace}`;
  if (m.float) return `Float · ${num(m.float.height * 1000)} mm · every ${num(m.float.period)} f`;
  if (m.swing) return `Swing · ${num((m.swing.amplitude * 180) / Math.PI)}° · ${m.swing.shape}`;
  if (m.roll) return `Roll · ${num(m.roll.turns)} turns · ${pace}`;
  if (m.gear) return `Gear · ${m.gear.num} to ${m.gear.den}`;
  if (m.follow) return `Follow · ${num(m.follow.lag)} f later`;
  if (m.reveal) return `Reveal · every ${num(m.reveal.delay)} f`;
  return `${moveName(m.kind)} · ${pace}`;
}

/** Paces as the bars draw them: about right, the core has them exactly. */
function curveOf(m: Move): (u: number) => number {
  const p = m.pace;
  const gentle = (u: number): number => {
    switch (p.kind) {
      case "sine":
        return 1 - Math.cos((Math.PI / 2) * u);
      case "power":
        return Math.pow(u, p.power ?? 3);
      case "exponential":
        return (Math.pow(2, 10 * u) - 1) / 1023;
      case "circular":
        return 1 - Math.sqrt(Math.max(0, 1 - u * u));
      case "back":
        return u * u * (2.70158 * u - 1.70158);
      case "elastic":
        return ((Math.pow(2, 10 * u) - 1) / 1023) * Math.cos(((1 - u) * 2 * Math.PI) / 0.3);
      case "bounce":
        return u * u;
    }
    return u;
  };
  let paced = (u: number) => u;
  if (p.kind === "bezier") paced = (u) => u * u * (3 - 2 * u);
  else if (p.kind === "spring") paced = (u) => 1 - Math.exp(-6 * u) * Math.cos(14 * u);
  else if (p.kind === "steps") paced = (u) => Math.floor(u * (p.steps ?? 1)) / (p.steps ?? 1);
  else if (p.way === "in") paced = gentle;
  else if (p.way === "out") paced = (u) => 1 - gentle(1 - u);
  else if (p.way === "both") paced = (u) => (u < 0.5 ? gentle(2 * u) / 2 : 1 - gentle(2 - 2 * u) / 2);
  const laps = m.laps || 1;
  if (m.after === "there and back")
    return (u) => {
      const x = u * laps;
      const lap = Math.min(laps - 1, Math.floor(x));
      return lap % 2 ? paced(1 - (x - lap)) : paced(x - lap);
    };
  return laps === 1
    ? paced
    : (u) => {
        const lap = Math.min(laps - 1, Math.floor(u * laps));
        return (lap + paced(u * laps - lap)) / laps;
      };
}

/** Stretches of time that a move fills, with how its progress runs in each. */
export function stretches(
  m: Move,
  frames: number,
  loop: boolean,
): { from: number; to: number; curve: (u: number) => number }[] {
  const period = m.float?.period ?? (m.swing && !m.swing.length ? m.swing.period : undefined);
  if (period) {
    const out = [];
    const bump = m.float
      ? (u: number) => (1 - Math.cos(2 * Math.PI * u)) / 2
      : (u: number) => (1 + Math.sin(2 * Math.PI * u)) / 2;
    for (let f = 0; f < frames - 1e-6 && out.length < 400; f += period) {
      const to = Math.min(frames, f + period);
      const part = (to - f) / period;
      out.push({ from: f, to, curve: (u: number) => bump(u * part) });
    }
    return out;
  }
  const curve = curveOf(m);
  const span = m.span;
  if (!span) return [{ from: 0, to: frames, curve }];
  const out = [{ from: span.from, to: span.to, curve }];
  if (loop && span.to > frames) out.push({ from: span.from - frames, to: span.to - frames, curve });
  return out;
}
