import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { FastifyInstance } from 'fastify';
import { z } from 'zod';

/** What a sample is called, what there is to find in it, and its used memory over time in kibibytes. */
const describedSchema = z.object({
  file: z.string(),
  title: z.string(),
  about: z.string(),
  runtime: z.string(),
  durationMs: z.number(),
  strip: z.array(z.number()),
});
const indexSchema = z.object({ samples: z.array(describedSchema) });
type Described = z.infer<typeof describedSchema>;

/**
 * Finished sample recordings that the page offers to a newcomer: files of a directory, fetched from /samples/, and what
 * `samples.json` there tells of them.
 */
export function sampleRoutes(app: FastifyInstance, directory: string | null): void {
  app.get('/api/samples', async () => {
    if (directory === null) return { samples: [], described: [] };
    const names = await readdir(directory).catch(() => []);
    const samples = names.filter((name) => name.endsWith('.heron') || name.endsWith('.log')).sort();
    const described = (await describedIn(directory)).filter(({ file }) => samples.includes(file));
    return { samples, described };
  });
}

// A folder of one's own tells nothing of its files: they are offered by their names.
async function describedIn(directory: string): Promise<readonly Described[]> {
  try {
    return indexSchema.parse(JSON.parse(await readFile(join(directory, 'samples.json'), 'utf8'))).samples;
  } catch {
    return [];
  }
}
