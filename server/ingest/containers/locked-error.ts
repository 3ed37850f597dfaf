import { ContainerError } from '../../../core/containers/container-error.ts';

/** A container, or an entry of one, that needs a key which nobody has. */
export class LockedError extends ContainerError {
  /** @param why whether a key was tried and is the wrong one; or `another`, where it is not what was to be unlocked */
  constructor(why: boolean | 'another') {
    super(
      why === 'another'
        ? 'it is locked, and its source has another build by now'
        : why
          ? 'it is locked, and no key that is known opens it'
          : 'it is locked with a key',
    );
  }
}
