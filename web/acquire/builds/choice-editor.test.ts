import { expect } from 'chai';
import { Choice } from '../../../core/containers/choice.ts';
import { toggled } from './choice-editor.tsx';

const none = { only: [], without: [] };

describe('Ticking what to bring in', () => {
  it('leaves out what is unticked, and brings it back', () => {
    const once = toggled(none, 'data/voice.zip');
    expect(new Choice(once).isLeftOut('data/voice.zip!/a.ogg')).to.equal(true);
    expect(toggled(once, 'data/voice.zip')).to.deep.equal(none);
  });

  it('brings back what was left out with its folder, by bringing back the folder', () => {
    const folder = toggled(none, 'data');
    expect(toggled(folder, 'data/voice.zip')).to.deep.equal(none);
  });

  it('forgets what lies in a folder that is left out as a whole', () => {
    const both = toggled(toggled(none, 'data/voice.zip'), 'data');
    expect(both).to.deep.equal({ only: [], without: ['/data'] });
  });

  it('adds to what alone is wanted', () => {
    const only = { only: ['data/**'], without: [] };
    const more = toggled(only, 'text');
    expect(new Choice(more).isLeftOut('text/a.txt')).to.equal(false);
    expect(toggled(more, 'text')).to.deep.equal(only);
  });
});
