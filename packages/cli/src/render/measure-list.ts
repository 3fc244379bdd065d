import { askMembers, type Measure } from '@brisk-heron/core';

/** Every measure with what may be asked of it, for people. Pure, ends with a newline. */
export function listMeasures(measures: readonly Pick<Measure, 'name' | 'title' | 'ask'>[]): string {
  return `${measures.map(told).join('\n\n')}\n`;
}

function told({ name, title, ask }: Pick<Measure, 'name' | 'title' | 'ask'>): string {
  const members = askMembers(ask).map(({ name: member, about, fallback }) => {
    const unless = fallback === undefined ? '' : ` (default: ${JSON.stringify(fallback)})`;
    return `    ${member.padEnd(14)} ${about}${unless}`;
  });
  return [`${name}: ${title}`, ...members].join('\n');
}
