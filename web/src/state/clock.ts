import { useSyncExternalStore } from "react";

/**
 * The playhead. It is kept outside React, since it changes with every picture: views subscribe and
 * draw by themselves. Playing keeps true speed: a picture that comes late shows the frame of its
 * moment, and the frames between are dropped.
 */
class Clock {
  frame = 0; // whole, from 0 to frames - 1
  playing = 0; // -1 backwards, 0 still, 1 forwards
  frames = 1;
  loop = true;
  rate = 24;
  reached = 0; // pictures shown in the last second
  range: [number, number] | null = null; // frames that play alone, the last one too

  private from = 0; // position in frames when playing began
  private since = 0;
  private shown: number[] = [];
  private listeners = new Set<() => void>();

  subscribe = (f: () => void) => {
    this.listeners.add(f);
    return () => {
      this.listeners.delete(f);
    };
  };

  private tell() {
    for (const f of this.listeners) f();
  }

  configure(frames: number, rate: number, loop: boolean) {
    if (frames === this.frames && rate === this.rate && loop === this.loop) return;
    if (frames !== this.frames) this.range = null;
    this.frames = frames;
    this.rate = rate;
    this.loop = loop;
    this.seek(Math.min(this.frame, frames - 1));
  }

  /** Goes to a frame; in a loop any number is brought round, so that no scrubbing hits an end. */
  seek(frame: number) {
    const n = this.frames;
    const f = Math.round(frame);
    this.frame = this.loop ? ((f % n) + n) % n : Math.min(n - 1, Math.max(0, f));
    this.from = this.frame;
    this.since = performance.now();
    this.tell();
  }

  play(direction: -1 | 0 | 1) {
    if (direction !== 0 && !this.loop && this.frame === (direction > 0 ? this.frames - 1 : 0))
      this.frame = direction > 0 ? 0 : this.frames - 1;
    this.playing = direction;
    this.from = this.frame;
    this.since = performance.now();
    this.shown = [];
    this.tell();
    if (direction !== 0) requestAnimationFrame(this.tick);
  }

  /** Lets a range of frames play alone, or all of them again. */
  setRange(range: [number, number] | null) {
    this.range = range && [Math.max(0, range[0]), Math.min(this.frames - 1, range[1])];
    if (this.range && this.range[1] - this.range[0] < 1) this.range = null;
    this.seek(this.frame);
  }

  private tick = (now: number) => {
    if (this.playing === 0) return;
    const at = this.from + (this.playing * Math.max(0, now - this.since) * this.rate) / 1000;
    const n = this.frames;
    let f = Math.floor(at + 1e-6);
    if (this.range) {
      const [a, b] = this.range;
      const m = b - a + 1;
      f = a + ((((f - a) % m) + m) % m);
    } else if (this.loop) f = ((f % n) + n) % n;
    else if (f >= n || f < 0) {
      this.frame = f < 0 ? 0 : n - 1;
      this.play(0);
      return;
    }
    if (f !== this.frame) {
      this.frame = f;
      this.tell();
      this.shown.push(now);
      while (this.shown.length > 1 && now - this.shown[0]! > 1000) this.shown.shift();
      const span = now - this.shown[0]!;
      this.reached = span > 200 ? ((this.shown.length - 1) * 1000) / span : this.reached;
    }
    requestAnimationFrame(this.tick);
  };
}

export const clock = new Clock();

export const useRange = () => useSyncExternalStore(clock.subscribe, () => clock.range);
export const useFrame = () => useSyncExternalStore(clock.subscribe, () => clock.frame);
export const usePlaying = () => useSyncExternalStore(clock.subscribe, () => clock.playing);
