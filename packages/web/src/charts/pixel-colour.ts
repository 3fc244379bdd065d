/** `#rrggbb` as 0xAABBGGRR. */
export function pixelColour(hex: string): number {
  const value = Number.parseInt(hex.trim().slice(1), 16);
  return ((255 << 24) | ((value & 255) << 16) | (value & 0xff00) | (value >> 16)) >>> 0;
}
