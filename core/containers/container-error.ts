/** A container, or an entry of one, that cannot be read. The message is a sentence that is shown as it is. */
export class ContainerError extends Error {
  override readonly name = 'ContainerError';
}
