/** What may be asked of a recorded program. */
export type RecorderCommand =
  | { readonly do: 'mark'; readonly label: string }
  | { readonly do: 'births'; readonly on?: boolean }
  | { readonly do: 'startOver' }
  | { readonly do: 'collect' }
  | { readonly do: 'inventory'; readonly insist?: boolean; readonly workers?: boolean; readonly ids?: boolean }
  | { readonly do: 'interval'; readonly bytes: number };

/** Asks something of the recorded program. Answers what went wrong, '' for nothing. */
export async function commandRecorder(streamId: string, wanted: RecorderCommand): Promise<string> {
  const response = await fetch(`/api/streams/${encodeURIComponent(streamId)}/commands`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(wanted),
  }).catch(() => null);
  return response?.ok === true ? '' : 'the program is not connected, so nothing can be asked of it';
}
