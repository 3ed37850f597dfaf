import { expect } from 'chai';
import { QueryError } from '../../../core/search/query.ts';
import { ConflictError, NotFoundError, PlainError } from '../plain-error.ts';
import { OpenQuestions, answerOf } from './thread-questions.ts';

/** Both sides in one: what crosses over is copied as between threads. */
async function asked(make: () => Promise<unknown>): Promise<unknown> {
  const questions = new OpenQuestions(() => undefined);
  return questions.send(
    (id) => void answerOf(id, make).then((answer) => questions.settle(structuredClone(answer))),
  );
}

describe('questions to a thread', () => {
  it('are answered, each its own, whatever the order', async () => {
    const questions = new OpenQuestions(() => undefined);
    const ids: number[] = [];
    const answers = [1, 2, 3].map(() => questions.send<string>((id) => void ids.push(id)));
    for (const id of [...ids].reverse()) questions.settle({ id, answer: `answer ${ids.indexOf(id)}` });
    expect(await Promise.all(answers)).to.deep.equal(['answer 0', 'answer 1', 'answer 2']);
  });

  it('bring errors back as what they were', async () => {
    const failure = async (error: Error): Promise<unknown> =>
      asked(() => Promise.reject(error)).catch((caught: unknown) => caught);
    expect(await failure(new NotFoundError('There is no build 9.'))).to.be.instanceOf(NotFoundError);
    const query = (await failure(new QueryError('“sz” is no figure', 4, 2))) as QueryError;
    expect(query).to.be.instanceOf(QueryError);
    expect([query.message, query.at, query.length]).to.deep.equal(['“sz” is no figure (at letter 5)', 4, 2]);
    expect(await failure(new ConflictError('It is taken.'))).to.be.instanceOf(ConflictError);
    expect(await failure(new PlainError('No.'))).to.be.instanceOf(PlainError);
  });

  it('tell a fault of the program from a mistake of whoever asked, with where it was', async () => {
    const fault = (await asked(() => Promise.reject(new TypeError('x is not a function'))).catch(
      (caught: unknown) => caught,
    )) as Error;
    expect(fault).not.to.be.instanceOf(PlainError);
    expect(fault.message).to.equal('x is not a function');
    expect(fault.stack).to.include('thread-questions.test.ts');
  });

  it('are given up when the thread is silent for too long, and its end is asked for', async () => {
    let stuck = 0;
    const questions = new OpenQuestions(() => stuck++, 30);
    const first = questions.send(() => undefined).catch((error: unknown) => String(error));
    const second = questions.send(() => undefined).catch((error: unknown) => String(error));
    expect(await first).to.equal('Error: no answer came within 0.03 seconds');
    expect(await second).to.match(/no answer came/);
    expect(stuck).to.equal(1);
  });

  it('fail where nobody is left to answer', async () => {
    const questions = new OpenQuestions(() => undefined);
    const lost = questions.send(() => undefined).catch((error: unknown) => String(error));
    questions.loseAll('The thread ended.');
    expect(await lost).to.equal('Error: The thread ended.');
  });
});
