import { z } from 'zod';

/** Answers whether a value is surely what its schema wants, as it is; false where the schema has to tell. */
export type QuickCheck = (value: unknown) => boolean;

/**
 * A check that is made of an object's schema once, of plain loops (docs/decisions.md): most lines are right, and nothing
 * is to be told of them. What it does not know is left to the schema of that member.
 *
 * `known` has checks of members that are not Zod's own.
 */
export function quickCheckOf(schema: z.ZodObject, known: ReadonlyMap<z.core.$ZodType, QuickCheck>): QuickCheck {
  const names = Object.keys(schema.shape);
  const tests = names.map((name) => memberCheck(schema.shape[name] as z.core.$ZodType, known));
  const refinements = (schema.def.checks ?? []).map((check) => refinementOf(check));
  return (value) => {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return false;
    // eslint-disable-next-line no-restricted-syntax -- only the schema's own names are looked up
    const members = value as Readonly<Record<string, unknown>>;
    for (let at = 0; at < names.length; at++) if (!tests[at]!(members[names[at]!])) return false;
    for (const refinement of refinements) if (!refinement(value)) return false;
    return true;
  };
}

function memberCheck(schema: z.core.$ZodType, known: ReadonlyMap<z.core.$ZodType, QuickCheck>): QuickCheck {
  const own = known.get(schema);
  if (own !== undefined) return own;
  if (schema instanceof z.ZodOptional) {
    const inner = memberCheck(schema.def.innerType, known);
    return (value) => value === undefined || inner(value);
  }
  if (schema instanceof z.ZodLiteral || schema instanceof z.ZodEnum) {
    const values = schema._zod.values;
    return (value) => values.has(value as string);
  }
  if (schema instanceof z.ZodBoolean) return (value) => typeof value === 'boolean';
  const isBounded = schema instanceof z.ZodNumber || schema instanceof z.ZodString || schema instanceof z.ZodArray;
  const bounds = isBounded ? boundsOf(schema) : null;
  if (schema instanceof z.ZodTuple && schema.def.rest === null) return tupleCheck(schema, known);
  // A value that its schema makes another one of is left to the whole schema.
  if (bounds === null)
    return (value) => {
      const result = z.safeParse(schema, value);
      return result.success && result.data === value;
    };
  const { least, most, isInclusive, isWhole } = bounds;
  if (schema instanceof z.ZodArray) {
    const element = memberCheck(schema.def.element, known);
    return (value) =>
      Array.isArray(value) && value.length >= least && value.length <= most && value.every((each) => element(each));
  }
  if (schema instanceof z.ZodString)
    return (value) => typeof value === 'string' && value.length >= least && value.length <= most;
  return (value) =>
    typeof value === 'number' &&
    (isInclusive ? value >= least : value > least) &&
    value <= most &&
    (!isWhole || Number.isSafeInteger(value));
}

function tupleCheck({ def }: z.ZodTuple, known: ReadonlyMap<z.core.$ZodType, QuickCheck>): QuickCheck {
  const items = def.items.map((item) => memberCheck(item, known));
  return (value) => Array.isArray(value) && value.length === items.length && items.every((item, at) => item(value[at]));
}

interface Bounds {
  least: number;
  most: number;
  isInclusive: boolean;
  isWhole: boolean;
}

// Null where a check is none of these.
function boundsOf(schema: z.ZodNumber | z.ZodString | z.ZodArray): Bounds | null {
  const bounds: Bounds = { least: -Number.MAX_VALUE, most: Number.MAX_VALUE, isInclusive: true, isWhole: false };
  for (const { _zod: check } of (schema.def.checks ?? []) as readonly z.core.$ZodCheck[]) {
    const def = check.def as z.core.$ZodChecks['_zod']['def'];
    if (def.check === 'greater_than' && typeof def.value === 'number') {
      if (def.value < bounds.least) continue;
      bounds.isInclusive = def.inclusive && (bounds.isInclusive || def.value > bounds.least);
      bounds.least = def.value;
    } else if (def.check === 'less_than' && typeof def.value === 'number' && def.inclusive)
      bounds.most = Math.min(bounds.most, def.value);
    else if (def.check === 'min_length') bounds.least = Math.max(bounds.least, def.minimum);
    else if (def.check === 'max_length') bounds.most = Math.min(bounds.most, def.maximum);
    else if (def.check === 'number_format' && def.format === 'safeint') bounds.isWhole = true;
    else return null;
  }
  return bounds;
}

// One that is not a plain function of the object is never taken as met.
function refinementOf({ _zod: { def } }: z.core.$ZodCheck): QuickCheck {
  const { check, fn } = def as Partial<z.core.$ZodCustomDef> & z.core.$ZodCheckDef;
  return check === 'custom' && fn !== undefined ? (value) => fn(value as object) === true : () => false;
}
