interface Window {
  perigyre?: {
    ready: () => boolean;
    seek: (frame: number) => void;
    play: (direction: -1 | 0 | 1) => void;
    frame: () => number;
    drawn: () => number;
    onBench: (x: number, y: number, z: number) => number[];
    pixels: (width: number, height: number) => number[];
  };
}
