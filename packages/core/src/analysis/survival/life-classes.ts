import { ageOfClass, type Lives } from './lives.ts';

/** Weights of a group's lives by how they went, each with its variance. Lives born in the span alone. */
export interface LifeClasses {
  /** Dead before a collection was lived through. */
  soon: number;
  soonVariance: number;
  /** Dead after one or more: what a collector copies, or promotes, for nothing. */
  middle: number;
  middleVariance: number;
  /** Alive when last seen, and too young to have lived through a collection. */
  recent: number;
  /** Alive when last seen, after one or more collections. */
  lasting: number;
  lastingVariance: number;
  /** Σ weight × collections lived through, at most `mostCopies` each: what was copied, about. */
  copied: number;
  /** Lived through at least so many collections, and of that what is dead: by number of collections, from 0. */
  readonly through: Float64Array;
  readonly throughVariance: Float64Array;
  readonly throughDead: Float64Array;
  samples: number;
}

/** More collections than this no collector lets an object live through before it promotes it. */
export const MOST_THROUGH = 16;

/**
 * How the lives of each group went, by the collections that they lived through; `lives` are those of kind
 * `collections`. A death counts the collections that it is known to have lived through, a flow none. One pass.
 */
export function lifeClasses(lives: Lives, groups: number, groupOf: Int32Array): LifeClasses[] {
  const classes = Array.from({ length: groups }, emptyClasses);
  for (let row = 0; row < lives.length; row++) {
    const group = groupOf[lives.originId[row]!]!;
    if (group < 0 || lives.entry[row]! > 0) continue;
    const of = classes[group]!;
    const [weight, variance] = [lives.weight[row]!, lives.variance[row]!];
    const isDead = lives.dead[row] === 1;
    const lived = Math.round(ageOfClass('collections', isDead ? lives.early[row]! : lives.late[row]!));
    of.samples++;
    of.copied += weight * Math.min(MOST_THROUGH, lived);
    for (let through = 0; through <= Math.min(MOST_THROUGH, lived); through++) {
      of.through[through]! += weight;
      of.throughVariance[through]! += variance;
      if (isDead) of.throughDead[through]! += weight;
    }
    const went = isDead ? (lived === 0 ? 'soon' : 'middle') : lived === 0 ? 'recent' : 'lasting';
    of[went] += weight;
    if (went !== 'recent') of[`${went}Variance`] += variance;
  }
  return classes;
}

function emptyClasses(): LifeClasses {
  return {
    ...{
      soon: 0,
      soonVariance: 0,
      middle: 0,
      middleVariance: 0,
      lasting: 0,
      lastingVariance: 0,
      recent: 0,
      copied: 0,
      samples: 0,
    },
    through: new Float64Array(MOST_THROUGH + 1),
    throughVariance: new Float64Array(MOST_THROUGH + 1),
    throughDead: new Float64Array(MOST_THROUGH + 1),
  };
}
