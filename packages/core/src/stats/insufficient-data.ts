/** A statistic that could not be computed, and what it needs. */
export interface InsufficientData {
  readonly kind: 'insufficient-data';
  readonly needed: number;
  readonly had: number;
}
