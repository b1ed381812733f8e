interface Window {
  perigyre?: {
    ready: () => boolean;
    seek: (frame: number) => void;
    play: (direction: -1 | 0 | 1) => void;
    frame: () => number;
    pixels: (width: number, height: number) => number[];
  };
}
