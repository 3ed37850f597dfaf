import {
  createReadStream,
  existsSync,
  linkSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { join } from 'node:path';
import { blake3 as blake3Of } from '@napi-rs/blake-hash';
import type { DepotBuilds, DepotManifest } from '../../contract/ways-in.ts';
import { builds, writeBuild, type BuildLabel } from '../mossline-ferry.ts';

const title = 'Mossline Ferry';
const publishedFile = 'published.json';

/** Published builds, with the moment when it was done. */
type Published = Partial<Record<string, string>>;

/**
 * A simulated depot: it serves a game's builds as manifests of files and hashes, and their contents by hash. The next build
 * is published on demand, by a button of its page.
 */
export class Depot {
  private readonly folder: string;
  private publishing: Promise<void> | null = null;

  constructor(folder: string) {
    this.folder = folder;
    mkdirSync(join(folder, 'contents'), { recursive: true });
    mkdirSync(join(folder, 'manifests'), { recursive: true });
  }

  get published(): Published {
    const path = join(this.folder, publishedFile);
    return existsSync(path) ? (JSON.parse(readFileSync(path, 'utf8')) as Published) : {};
  }

  /** The build that would be published next; null when all are out. */
  get next(): BuildLabel | null {
    const { published } = this;
    return builds.find(({ label }) => !(label in published))?.label ?? null;
  }

  /** Publishes builds up to this one. */
  async publishUpTo(label: BuildLabel): Promise<void> {
    while (!(label in this.published) && this.next !== null) await this.publishNext();
  }

  publishNext(): Promise<void> {
    this.publishing ??= this.publish().finally(() => (this.publishing = null));
    return this.publishing;
  }

  private async publish(): Promise<void> {
    const label = this.next;
    if (label === null) return;
    const build = join(this.folder, `${label}.new`);
    await writeBuild(label, build);
    const manifest: DepotManifest = { files: [] };
    for (const item of readdirSync(build, { withFileTypes: true, recursive: true })) {
      if (!item.isFile()) continue;
      const path = join(item.parentPath, item.name);
      const blake3 = blake3Of(readFileSync(path)).toString('hex');
      const content = join(this.folder, 'contents', blake3);
      if (!existsSync(content)) linkSync(path, content);
      manifest.files.push({ path: path.slice(build.length + 1), size: statSync(path).size, blake3 });
    }
    manifest.files.sort((a, b) => (a.path < b.path ? -1 : 1));
    writeFileSync(join(this.folder, 'manifests', `${label}.json`), JSON.stringify(manifest));
    rmSync(build, { recursive: true });
    const list = join(this.folder, publishedFile);
    writeFileSync(`${list}.new`, JSON.stringify({ ...this.published, [label]: new Date().toISOString() }));
    renameSync(`${list}.new`, list);
  }

  async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const path = new URL(request.url ?? '/', 'http://depot').pathname;
    if (request.method === 'POST' && path === '/publish') {
      await this.publishNext();
      response.writeHead(303, { Location: '/' }).end();
      return;
    }
    if (path === '/') {
      response.writeHead(200, { 'Content-Type': 'text/html; charset=utf-8' }).end(this.page());
      return;
    }
    if (path === '/builds.json') {
      response.writeHead(200, { 'Content-Type': 'application/json' }).end(JSON.stringify(this.list()));
      return;
    }
    const file = /^\/(contents\/[0-9a-f]{64}|manifests\/[\w.-]+\.json)$/.exec(path)?.[1];
    if (file === undefined || !existsSync(join(this.folder, file))) {
      response.writeHead(404).end('There is nothing here.\n');
      return;
    }
    const place = join(this.folder, file);
    response.writeHead(200, { 'Content-Length': statSync(place).size });
    createReadStream(place).pipe(response);
  }

  private list(): DepotBuilds {
    const { published } = this;
    return {
      title,
      builds: builds
        .filter(({ label }) => label in published)
        .map(({ label, releasedAt }) => ({
          label,
          releasedAt,
          platform: '',
          manifest: `manifests/${label}.json`,
        })),
    };
  }

  private page(): string {
    const { next, published } = this;
    const lines = Object.entries(published).map(
      ([label, at]) => `<li>Build ${label}, out since ${at ?? ''}</li>`,
    );
    const button =
      next === null
        ? '<p>All builds are out.</p>'
        : `<form method="post" action="/publish"><button>Publish build ${next}</button></form>`;
    return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Depot of ${title}</title>
<style>body{font:1rem/1.5 sans-serif;max-width:40rem;margin:3rem auto;padding:0 1rem}</style>
<h1>Depot of ${title}</h1><p>A stand-in for the place where a game's builds come from.</p><ul>${lines.join('')}</ul>${button}</html>`;
  }
}
