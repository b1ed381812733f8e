/** A new identifier. crypto.randomUUID is not there on addresses without TLS beyond this machine. */
export function newId(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  return [...b].map((v) => v.toString(16).padStart(2, "0")).join("");
}
