import { expect } from 'chai';
import { QueryError } from '../../../core/search/query.ts';
import { NotFoundError, PlainError } from '../plain-error.ts';
import { OpenQuestions, answerOf } from './thread-questions.ts';

/** Both sides in one: what crosses over is copied as between threads. */
async function asked(make: () => Promise<unknown>): Promise<unknown> {
  const questions = new OpenQuestions();
  return questions.ask(
    (id) => void answerOf(id, make).then((answer) => questions.settle(structuredClone(answer))),
  );
}

describe('questions to a thread', () => {
  it('are answered, each its own, whatever the order', async () => {
    const questions = new OpenQuestions();
    const ids: number[] = [];
    const answers = [1, 2, 3].map(() => questions.ask<string>((id) => void ids.push(id)));
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
    const plain = (await failure(new TypeError('x is not a function'))) as PlainError;
    expect([plain instanceof PlainError, plain.message]).to.deep.equal([true, 'x is not a function']);
  });

  it('fail where nobody is left to answer', async () => {
    const questions = new OpenQuestions();
    const lost = questions.ask(() => undefined).catch((error: unknown) => String(error));
    questions.loseAll('The thread ended.');
    expect(await lost).to.equal('PlainError: The thread ended.');
  });
});
