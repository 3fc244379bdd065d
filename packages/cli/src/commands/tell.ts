import type { Command } from 'commander';
import { z } from 'zod';
import { askServer, findServer, serverAccess, type ServerAccess } from '../recording/server-access.ts';

interface TellOptions {
  readonly server?: string;
  readonly id?: string;
  readonly insist?: boolean;
  readonly ids?: boolean;
}

const streamsSchema = z.object({
  streams: z.array(
    z.object({ id: z.string(), name: z.string(), connected: z.boolean(), ended: z.unknown().optional() }),
  ),
});
const messageSchema = z.object({ message: z.string() });

/** `heron tell`: asks something of a program that is under recording. */
export function tellCommand(command: Command): void {
  command
    .argument('<wish>', 'births, start-over, collect, mark or inventory')
    .argument(
      '[value]',
      'of births: on or off, what is followed stays followed; of mark: its label; of inventory: workers, for those of a Node program too',
    )
    .option('--server <address>', 'server that the program is recorded to (default: the one on this machine)')
    .option('--id <id>', 'which recording, where several programs are connected')
    .option('--insist', 'of inventory: though memory or disk may be short')
    .option('--ids', 'of inventory, Node: objects keep their numbers until the next one, so that both can be compared')
    .action(tell);
}

async function tell(wish: string, value: string | undefined, options: TellOptions): Promise<void> {
  const command = commandOf(wish, value, options);
  const access = serverAccess(options.server);
  if (!(await findServer(access)))
    throw new Error(
      `no server answers at ${access.address}: name the one that the program is recorded to with --server`,
    );
  const id = options.id ?? (await onlyConnected(access));
  const response = await askServer(access, `/api/streams/${encodeURIComponent(id)}/commands`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(command),
  });
  if (response.ok) return;
  const told = messageSchema.safeParse(await response.json().catch(() => null));
  throw new Error(told.success ? told.data.message : `the server answered with ${response.status}`);
}

function commandOf(wish: string, value: string | undefined, options: TellOptions): object {
  switch (wish) {
    case 'births':
      if (value !== 'on' && value !== 'off')
        throw new Error(`expected births on or births off, found "${value ?? ''}"`);
      return { do: 'births', on: value === 'on' };
    case 'start-over':
      return { do: 'startOver' };
    case 'collect':
      return { do: 'collect' };
    case 'inventory':
      if (value !== undefined && value !== 'workers')
        throw new Error(`expected inventory, or inventory workers, found "${value}"`);
      return {
        do: 'inventory',
        insist: options.insist === true,
        workers: value === 'workers',
        ids: options.ids === true,
      };
    case 'mark':
      if (value === undefined || value.trim() === '')
        throw new Error('expected a label: heron tell mark "import done"');
      return { do: 'mark', label: value };
    default:
      throw new Error(`expected births, start-over, collect, mark or inventory, found "${wish}"`);
  }
}

async function onlyConnected(access: ServerAccess): Promise<string> {
  const { streams } = streamsSchema.parse(await (await askServer(access, '/api/streams')).json());
  const connected = streams.filter((stream) => stream.connected);
  if (connected.length === 1) return connected[0]!.id;
  throw new Error(
    connected.length === 0
      ? 'no program is under recording at this server just now'
      : `several programs are under recording: name one with --id\n${connected.map(({ id, name }) => `  ${id}  ${name}`).join('\n')}`,
  );
}
