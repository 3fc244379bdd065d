import { ageOfClass, type Lives } from './lives.ts';

/**
 * Weights of each group's lives by how they went, each with its variance: parallel columns by group. Lives born in the
 * span alone.
 */
export interface LifeClasses {
  readonly groups: number;
  /** Dead before a collection was lived through. */
  readonly soon: Float64Array;
  readonly soonVariance: Float64Array;
  /** Dead after one or more: what a collector copies, or promotes, for nothing. */
  readonly middle: Float64Array;
  readonly middleVariance: Float64Array;
  /** Alive when last seen, after one or more collections. */
  readonly lasting: Float64Array;
  readonly lastingVariance: Float64Array;
  /** Σ weight × collections lived through, at most 16 each: what was copied, about. */
  readonly copied: Float64Array;
  readonly samples: Uint32Array;
  /**
   * Lived through at least so many collections, and of that what is dead: `[group · (MOST_THROUGH + 1) + collections]`.
   */
  readonly through: Float64Array;
  readonly throughVariance: Float64Array;
  readonly throughDead: Float64Array;
}

/** More collections than this no collector lets an object live through before it promotes it. */
export const MOST_THROUGH = 16;

/**
 * How the lives of each group went, by the collections that they lived through; `lives` are those of kind
 * `collections`. A death counts the collections that it is known to have lived through, a flow none. One pass.
 */
export function lifeClasses(lives: Lives, groups: number, groupOf: Uint32Array): LifeClasses {
  const classes = emptyClasses(groups);
  const { soon, soonVariance, middle, middleVariance, lasting, lastingVariance } = classes;
  for (let row = 0; row < lives.length; row++) {
    if (lives.entry[row]! > 0) continue;
    const group = groupOf[lives.originId[row]!]!;
    const weight = lives.weight[row]!;
    const variance = lives.variance[row]!;
    const isDead = lives.dead[row] === 1;
    const lived = Math.round(ageOfClass('collections', isDead ? lives.early[row]! : lives.late[row]!));
    classes.samples[group]!++;
    classes.copied[group]! += weight * Math.min(MOST_THROUGH, lived);
    const first = group * (MOST_THROUGH + 1);
    for (let at = first; at <= first + Math.min(MOST_THROUGH, lived); at++) {
      classes.through[at]! += weight;
      classes.throughVariance[at]! += variance;
      if (isDead) classes.throughDead[at]! += weight;
    }
    // What is alive and has lived through none is too young to tell.
    if (!isDead && lived === 0) continue;
    const [went, wentVariance] = !isDead
      ? [lasting, lastingVariance]
      : lived === 0
        ? [soon, soonVariance]
        : [middle, middleVariance];
    went[group]! += weight;
    wentVariance[group]! += variance;
  }
  return classes;
}

function emptyClasses(groups: number): LifeClasses {
  const column = (): Float64Array => new Float64Array(groups);
  const byAge = (): Float64Array => new Float64Array(groups * (MOST_THROUGH + 1));
  return {
    groups,
    ...{ soon: column(), soonVariance: column(), middle: column(), middleVariance: column() },
    ...{ lasting: column(), lastingVariance: column(), copied: column(), samples: new Uint32Array(groups) },
    ...{ through: byAge(), throughVariance: byAge(), throughDead: byAge() },
  };
}
