import { ContainerError } from '../../core/containers/container-error.ts';

/** A container, or an entry of one, that needs a key which nobody has. */
export class LockedError extends ContainerError {
  /** @param wasTried whether a key was tried and is the wrong one */
  constructor(wasTried: boolean) {
    super(wasTried ? 'it is locked, and no key that is known opens it' : 'it is locked with a key');
  }
}
