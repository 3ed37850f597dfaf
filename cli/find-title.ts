import { titlesSchema, type Title } from '../contract/builds.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { getJson, type Connection } from './connection.ts';

/** @throws PlainError where there is none of this name */
export async function findTitle(application: Connection, name: string): Promise<Title> {
  const title = titlesSchema
    .parse(await getJson(application, 'titles'))
    .find((candidate) => candidate.name === name);
  if (!title) throw new PlainError(`There is no title named ${name}.`);
  return title;
}

/** @throws PlainError where the title has none of this name */
export function findChannel({ name: title, channels }: Title, name: string): Title['channels'][number] {
  const channel = channels.find((candidate) => candidate.name === name);
  if (!channel) throw new PlainError(`${title} has no channel ${name}.`);
  return channel;
}
