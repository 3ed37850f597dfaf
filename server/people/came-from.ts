import { AsyncLocalStorage } from 'node:async_hooks';
import { getConnInfo } from '@hono/node-server/conninfo';
import type { MiddlewareHandler } from 'hono';

const addresses = new AsyncLocalStorage<string>();

/** Remembers, for as long as a request is answered, from where it came. */
export const rememberAddress: MiddlewareHandler = (context, next) => addresses.run(addressOf(context), next);

function addressOf(context: Parameters<MiddlewareHandler>[0]): string {
  try {
    return getConnInfo(context).remote.address?.slice(0, 64) ?? '';
  } catch {
    // A command that does its work in this process sends its requests through no socket.
    return 'this machine';
  }
}

/** From where the request came that is answered now; empty outside of one. */
export function cameFrom(): string {
  return addresses.getStore() ?? '';
}
