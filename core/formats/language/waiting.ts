/** Something has to be there first: whoever reads waits for it and reads again. No error of a sheet or a file. */
export class Waiting extends Error {
  override readonly name = 'Waiting';
  readonly prepare: () => Promise<void>;

  constructor(prepare: () => Promise<void>) {
    super('something has to be there first');
    this.prepare = prepare;
  }
}
