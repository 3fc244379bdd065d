import { ref, shallowRef } from 'vue';
import { z } from 'zod';

const streamSchema = z.object({
  id: z.string(),
  name: z.string(),
  program: z.string(),
  runtime: z.string(),
  startedEpochMs: z.number(),
  bytes: z.number(),
  connected: z.boolean(),
  ended: z.object({ exitCode: z.number().nullable(), signal: z.string().nullable() }).nullable(),
});
const streamsSchema = z.object({ streams: z.array(streamSchema) });
const describedSchema = z.object({
  file: z.string(),
  title: z.string(),
  about: z.string(),
  runtime: z.string(),
  durationMs: z.number(),
  strip: z.array(z.number()),
});
const samplesSchema = z.object({ samples: z.array(z.string()), described: z.array(describedSchema).default([]) });

/** A sample recording of the server: what it is called, and what there is to find in it. */
export type Sample = z.infer<typeof describedSchema>;

export type ServerStream = z.infer<typeof streamSchema>;

/** What the server has: streams of programs, and samples to look at. */
export function serverLists() {
  const streams = shallowRef<readonly ServerStream[]>([]);
  const samples = shallowRef<readonly Sample[]>([]);
  const serverReached = ref(true);
  /** The server is there and does not know this browser: it keeps another data folder, or the cookie is gone. */
  const serverRefuses = ref(false);

  async function askServer(): Promise<void> {
    try {
      const response = await fetch('/api/streams');
      serverRefuses.value = response.status === 401;
      streams.value = streamsSchema.parse(await response.json()).streams;
      if (samples.value.length === 0)
        samples.value = samplesOf(samplesSchema.parse(await (await fetch('/api/samples')).json()));
      serverReached.value = true;
    } catch {
      serverReached.value = false;
    }
  }

  return { streams, samples, serverReached, serverRefuses, askServer };
}

// Described ones first, in their order; of others the name is all that is known.
function samplesOf({ samples, described }: z.infer<typeof samplesSchema>): Sample[] {
  const known = new Set(described.map(({ file }) => file));
  const plain = samples
    .filter((file) => !known.has(file))
    .map((file) => ({
      file,
      title: file.replace(/\.(heron|log)$/, ''),
      about: '',
      runtime: '',
      durationMs: 0,
      strip: [],
    }));
  return [...described, ...plain];
}
