/** What a promise fails with. @throws where it does not fail */
export async function failureOf(promise: Promise<unknown>): Promise<Error> {
  try {
    await promise;
  } catch (error) {
    return error as Error;
  }
  throw new Error('it did not fail');
}
