import { GlobalRegistrator } from '@happy-dom/global-registrator';
import type { RenderHookResult, RenderResult } from '@testing-library/react';
import type { UserEvent } from '@testing-library/user-event';
import type { ReactNode } from 'react';

/** A request that something on the page sent. */
export interface SentRequest {
  method: string;
  /** Below `/api`, with its query. */
  path: string;
  body: unknown;
  headers: Headers;
}

/** What a request is answered with; a number alone is a status without a body. */
export type Answer = { status?: number; body: unknown };
export type Answers = (request: SentRequest) => Answer | Promise<Answer>;

type Globals = Map<PropertyKey, PropertyDescriptor>;

const globals = (): Globals =>
  new Map(
    Reflect.ownKeys(globalThis).flatMap((name) => {
      const descriptor = Object.getOwnPropertyDescriptor(globalThis, name);
      return descriptor ? [[name, descriptor] as const] : [];
    }),
  );

/** What a page adds to the global scope, and what stood there before: one window serves all tests of a process. */
let window: { added: Globals; before: Globals } | null = null;

function enterPage(): void {
  if (!window) {
    const before = globals();
    GlobalRegistrator.register({ url: 'http://127.0.0.1/', width: 1280, height: 800 });
    const added = new Map(
      [...globals()].filter(([name, now]) => {
        const old = before.get(name);
        return !old || old.value !== now.value || 'get' in old !== 'get' in now;
      }),
    );
    window = { added, before };
    return;
  }
  for (const [name, descriptor] of window.added) Object.defineProperty(globalThis, name, descriptor);
}

function leavePage(): void {
  for (const name of window?.added.keys() ?? []) {
    const old = window?.before.get(name);
    if (old) Object.defineProperty(globalThis, name, old);
    else Reflect.deleteProperty(globalThis, name);
  }
}

/**
 * A page without a browser, in which parts of the interface are rendered by themselves. Its requests are answered by the
 * test. What it puts into the global scope goes when it is closed.
 */
export class TestPage {
  readonly sent: SentRequest[] = [];
  answer: Answers = () => ({ status: 404, body: { error: 'nothing here' } });
  private library: typeof import('@testing-library/react') | null = null;
  user!: UserEvent;

  /** Before the parts are loaded that are tested: some look at the page while they are. */
  async open(): Promise<void> {
    enterPage();
    Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true, fetch: this.fetch });
    this.library = await import('@testing-library/react');
    const { default: events } = await import('@testing-library/user-event');
    this.user = events.setup({ delay: null });
  }

  async close(): Promise<void> {
    this.library?.cleanup();
    // What was rendered may still have something to do.
    await new Promise((resolve) => setTimeout(resolve));
    leavePage();
  }

  private get loaded(): typeof import('@testing-library/react') {
    if (!this.library) throw new Error('TestPage: not open');
    return this.library;
  }

  render(part: ReactNode): RenderResult {
    return this.loaded.render(part);
  }

  renderHook<Result>(hook: () => Result): RenderHookResult<Result, unknown> {
    return this.loaded.renderHook(hook);
  }

  act(work: () => void | Promise<void>): Promise<void> {
    return this.loaded.act(async () => {
      await work();
    });
  }

  /** Waits until something holds. */
  until<T>(check: () => T | Promise<T>): Promise<T> {
    return this.loaded.waitFor(check, { timeout: 5000 });
  }

  /** Takes away what was rendered, and forgets what was sent. */
  clear(): void {
    this.loaded.cleanup();
    this.sent.length = 0;
    localStorage.clear();
  }

  private readonly fetch = async (input: Request | string | URL): Promise<Response> => {
    const request = input instanceof Request ? input : new Request(input);
    const { pathname, search } = new URL(request.url);
    const text = await request.text();
    const sent: SentRequest = {
      method: request.method,
      path: `${pathname.replace(/^\/api/, '')}${search}`,
      body: text === '' ? undefined : JSON.parse(text),
      headers: new Headers([...request.headers]),
    };
    this.sent.push(sent);
    const { status = 200, body } = await this.answer(sent);
    return new Response(JSON.stringify(body), {
      status,
      headers: { 'content-type': 'application/json' },
    });
  };
}
