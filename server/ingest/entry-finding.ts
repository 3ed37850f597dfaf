import { ContainerError } from '../../core/containers/container-error.ts';
import { checkEntryName, containerMark, unusedName } from '../../core/containers/entry-name.ts';
import { identify } from '../../core/kinds/identify.ts';
import { role } from '../acquire/builds/spans.ts';
import { pathDigest } from '../store/hash.ts';
import { LockedError } from './containers/locked-error.ts';
import type { FoundAsset } from './recorder.ts';
import { countLeaf, type OpenContainer } from './unit-context.ts';

/** Of a path through containers: the columns that hold paths take 65,535, and indexes and screens suffer much earlier. */
const maximumPathBytes = 8192;
const shownCharacters = 1000;

export interface NamedEntry {
  found: FoundAsset;
  /** The name within the container. */
  inner: string;
  refused: string | null;
}

/** Gives the entries of one container their paths, and sorts out what is not to be read. */
export class EntryFinder {
  private readonly container: OpenContainer;
  private readonly prefix: string;
  private readonly root: string;
  private readonly taken = new Set<string>();

  constructor(container: OpenContainer) {
    this.container = container;
    const { found, context } = container;
    this.prefix = found.path === '' ? '' : found.path + containerMark;
    this.root = found.path === '' && context.contentRoot !== '' ? `${context.contentRoot}/` : '';
  }

  /**
   * @param isMine false where another thread reads the entry: its name counts, and no more
   * @returns null where the entry is not to be read
   */
  find(name: string, size: number | null, isMine = true): NamedEntry | null {
    const { context, found: container } = this.container;
    const checked = checkEntryName(name);
    let inner = checked.path;
    if (this.root !== '' && checked.refused === null) {
      if (!inner.startsWith(this.root)) {
        if (isMine) leaveOut(this.container, size);
        return null;
      }
      inner = inner.slice(this.root.length);
    }
    const original = inner;
    if (this.taken.has(inner)) inner = unusedName(inner, this.taken);
    this.taken.add(inner);
    if (!isMine) return null;
    const whole = this.prefix + inner;
    const isTooLong = Buffer.byteLength(whole) > maximumPathBytes;
    // It is listed under a name that is short enough, and that no other has.
    const path = isTooLong
      ? `${whole.slice(0, shownCharacters)}…${pathDigest(whole).toString('hex')}`
      : whole;
    if (inner !== original && this.isAsked(path)) {
      context.recorder.addProblem({
        path,
        unit: container.unit,
        reason: `the archive has more than one entry named ${original}`,
        locked: false,
      });
    }
    if (context.choice.isLeftOut(path) && !context.choice.isOpened(path)) {
      leaveOut(this.container, size);
      return null;
    }
    if (!this.isAsked(path)) return null;
    const found: FoundAsset = {
      path,
      unit: container.unit,
      role: role.file,
      format: identify(new Uint8Array(0), inner).format,
      byExtension: true,
      size,
    };
    return {
      found,
      inner,
      refused: isTooLong ? `its path is longer than ${maximumPathBytes} bytes` : checked.refused,
    };
  }

  /** Lists an entry that cannot be read, with the reason. @throws what is no fault of the entry's own */
  async listUnreadable(found: FoundAsset, error: unknown): Promise<void> {
    if (!(error instanceof ContainerError)) throw error;
    const { context } = this.container;
    countLeaf(context, found);
    await context.recorder.addUnreadable(found, error.message, error instanceof LockedError);
  }

  private isAsked(path: string): boolean {
    const { unlocking } = this.container.context;
    return unlocking === null || unlocking.isWithin(path) || unlocking.leadsTo(path);
  }
}

/**
 * A container that breaks off keeps what was read of it, and is listed with the reason.
 * @throws the error, where nothing was read or it is no fault of the container's
 */
export function endEarly({ context, found }: OpenContainer, error: unknown, entriesRead: number): void {
  if (!(error instanceof ContainerError) || entriesRead === 0) throw error;
  context.recorder.addProblem({
    path: found.path,
    unit: found.unit,
    reason: `the archive was read in part, ${entriesRead} ${entriesRead === 1 ? 'entry' : 'entries'}: ${error.message}`,
    locked: false,
  });
}

export function leaveOut({ context }: Pick<OpenContainer, 'context'>, size: number | null): void {
  context.counts.leftOutFiles++;
  context.counts.leftOutBytes += size ?? 0;
}
