import { appendFileSync, createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { z } from 'zod';
import { type Destination, textOf } from './spool.ts';

const markSchema = z.object({ do: z.literal('mark'), label: z.string(), epochMs: z.number() });
const helloSchema = z.object({ k: z.literal('hello'), h: z.string(), epochMs: z.number() });
const toldSchema = z.object({ k: z.literal('mark'), h: z.string(), label: z.string(), by: z.literal('page') });

/**
 * Marks that were answered so shortly before the program's end that no recorder read them: they are added for the first
 * heap of the recording, at the time they were set. Answers how many.
 */
export async function addLeftMarks({ spool, control }: Destination): Promise<number> {
  const asked =
    control === ''
      ? []
      : textOf(control)
          .split('\n')
          .flatMap((line) => parsed(line, markSchema));
  if (asked.length === 0) return 0;
  let first: z.infer<typeof helloSchema> | null = null;
  // Each heap tells a mark once: of marks of one label so many were read as any heap told.
  const told = new Map<string, number>();
  for await (const line of createInterface({ input: createReadStream(spool) })) {
    if (line.startsWith('{"k":"hello"')) first ??= parsed(line, helloSchema)[0] ?? null;
    if (line.startsWith('{"k":"mark"'))
      for (const { h, label } of parsed(line, toldSchema))
        told.set(`${h} ${label}`, (told.get(`${h} ${label}`) ?? 0) + 1);
  }
  if (first === null) return 0;
  const { h, epochMs: originMs } = first;
  const read = new Map<string, number>();
  for (const [key, times] of told) {
    const label = key.slice(key.indexOf(' ') + 1);
    read.set(label, Math.max(read.get(label) ?? 0, times));
  }
  const left = asked.filter(({ label }) => {
    const rest = read.get(label) ?? 0;
    read.set(label, rest - 1);
    return rest <= 0;
  });
  appendFileSync(
    spool,
    left
      .map(
        ({ label, epochMs }) =>
          `${JSON.stringify({ k: 'mark', h, t: Math.max(0, epochMs - originMs), label, by: 'page' })}\n`,
      )
      .join(''),
  );
  return left.length;
}

function parsed<T>(line: string, schema: z.ZodType<T>): T[] {
  try {
    const result = schema.safeParse(JSON.parse(line));
    return result.success ? [result.data] : [];
  } catch {
    return [];
  }
}
