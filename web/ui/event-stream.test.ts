import { expect } from 'chai';
import { EventStream, type StreamPage } from './event-stream.ts';

/** A connection whose events the test sends. */
class FakeSource {
  readonly listeners = new Map<string, (event: { data: string; lastEventId: string }) => void>();
  isClosed = false;
  readonly url: string;
  constructor(url: string) {
    this.url = url;
  }
  addEventListener(name: string, listener: (event: { data: string; lastEventId: string }) => void): void {
    this.listeners.set(name, listener);
  }
  close(): void {
    this.isClosed = true;
  }
  post(name: string, data: unknown, lastEventId = ''): void {
    this.listeners.get(name)?.({ data: JSON.stringify(data), lastEventId });
  }
}

describe('EventStream', () => {
  let sources: FakeSource[];
  let isHidden: boolean;
  let onVisibility: () => void;
  let stream: EventStream;
  const span = { channel: 3, from: '0.1', to: '0.2' };
  const last = (): FakeSource => {
    const source = sources.at(-1);
    if (!source) throw new Error('nothing was opened');
    return source;
  };
  const open = (): FakeSource[] => sources.filter((source) => !source.isClosed);
  beforeEach(() => {
    sources = [];
    isHidden = false;
    const page: StreamPage = {
      open: (url) => {
        const source = new FakeSource(url);
        sources.push(source);
        return source as unknown as EventSource;
      },
      isHidden: () => isHidden,
      onVisibility: (listener) => (onVisibility = listener),
    };
    stream = new EventStream(page);
  });

  it('is one connection for all who listen, and none where nobody does', () => {
    expect(sources).to.deep.equal([]);
    const heard: unknown[] = [];
    const leave = [
      stream.listen('jobs', (data) => heard.push(['one', data])),
      stream.listen('jobs', (data) => heard.push(['two', data])),
      stream.listen('changes', (data) => heard.push(['three', data])),
    ];
    expect(sources.map(({ url }) => url)).to.deep.equal(['/api/events']);
    last().post('jobs', 1);
    last().post('changes', 2);
    expect(heard).to.deep.equal([
      ['one', 1],
      ['two', 1],
      ['three', 2],
    ]);
    for (const end of leave) end();
    expect(open()).to.deep.equal([]);
  });

  it('hears of the span that is shown, and of the one before when that is left', () => {
    stream.listen('marks', () => undefined);
    const leave = stream.follow(span);
    expect(last().url).to.equal('/api/events?channel=3&from=0.1&to=0.2');
    const leaveOther = stream.follow({ ...span, to: '0.3 beta' });
    expect(last().url).to.include('to=0.3+beta');
    expect(open()).to.have.length(1);
    leaveOther();
    expect(last().url).to.equal('/api/events?channel=3&from=0.1&to=0.2');
    leave();
    expect(last().url).to.equal('/api/events');
    expect(open()).to.have.length(1);
  });

  it('gives its connection back while nobody looks, and asks for what came meanwhile', () => {
    const heard: unknown[] = [];
    stream.listen('marks', (data) => heard.push(data));
    stream.follow(span);
    last().post('marks', 'first', '41');
    isHidden = true;
    onVisibility();
    expect(open()).to.deep.equal([]);
    isHidden = false;
    onVisibility();
    expect(last().url).to.equal('/api/events?channel=3&from=0.1&to=0.2&since=41');
    last().post('marks', 'second', '42');
    expect(heard).to.deep.equal(['first', 'second']);
  });

  it('forgets how far it was when another span is shown', () => {
    stream.listen('marks', () => undefined);
    const leave = stream.follow(span);
    last().post('marks', 'first', '41');
    leave();
    stream.follow({ ...span, from: '0.0' });
    expect(last().url).not.to.include('since');
  });

  it('hears nothing of a connection that was left, and says when the server is gone', () => {
    const heard: unknown[] = [];
    let losses = 0;
    stream.listen('marks', (data) => heard.push(data));
    const forget = stream.listenToLoss(() => losses++);
    const first = last();
    stream.follow(span);
    first.post('marks', 'late', '1');
    first.listeners.get('error')?.({ data: '', lastEventId: '' });
    expect(heard).to.deep.equal([]);
    expect(losses).to.equal(0);
    last().listeners.get('error')?.({ data: '', lastEventId: '' });
    expect(losses).to.equal(1);
    forget();
    last().listeners.get('error')?.({ data: '', lastEventId: '' });
    expect(losses).to.equal(1);
  });
});
