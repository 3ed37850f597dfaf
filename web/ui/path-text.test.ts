import { expect } from 'chai';
import { readablePath } from './path-text.tsx';

describe('readablePath', () => {
  it('leaves ordinary paths as they are', () => {
    expect(readablePath('data/props.zip!/Wörter/葦.png')).to.equal('data/props.zip!/Wörter/葦.png');
  });

  it('shows what has no shape', () => {
    expect(readablePath('line\nbreak\ttab')).to.equal('line␊break␉tab');
    expect(readablePath('a\u202eb\u200bc')).to.equal('a⟨u202e⟩b⟨u200b⟩c');
  });

  it('tells letters that are put together from those that are not', () => {
    expect(readablePath('W\u00f6rter')).to.equal('W\u00f6rter');
    expect(readablePath('Wo\u0308rter')).to.equal('Wo\u0308rter ⟨put together⟩');
  });
});
