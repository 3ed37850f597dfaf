import { expect } from 'chai';
import { channelGroups, groupOf, innerViews, plainViews, viewAt, workGroup } from './views.tsx';

describe('views', () => {
  const ofChannels = channelGroups.flatMap(({ views }) => views);

  it('have an address each, and a name that no other of their group has', () => {
    const addresses = [...ofChannels, ...innerViews].map(({ path }) => path);
    expect(new Set(addresses).size).to.equal(addresses.length);
    for (const { name, views } of [...channelGroups, workGroup])
      expect(new Set(views.map((view) => view.name)).size, name).to.equal(views.length);
  });

  it('stand under the work that they are for', () => {
    expect(channelGroups.map(({ name }) => name)).to.deep.equal(['Update', 'Library', 'Haul', 'Catalogue']);
    const groups = ['news', 'families', 'recipes', 'compare', 'asset', 'new'].map(
      (view) => groupOf(view)?.name,
    );
    expect(groups).to.deep.equal(['Update', 'Library', 'Library', 'Update', 'Library', 'Update']);
    expect([groupOf(''), groupOf('nowhere'), groupOf('work')]).to.deep.equal([null, null, null]);
  });

  it('are found by their part of the address; what is none has no view', () => {
    for (const { path, View } of [...ofChannels, ...innerViews]) expect(viewAt(path)?.View).to.equal(View);
    expect(viewAt('constructor')).to.equal(null);
  });

  it('of the whole house begin at their own addresses', () => {
    expect(plainViews.every(({ path }) => path.startsWith('/'))).to.equal(true);
    expect(workGroup.views[0]?.path).to.equal('/work');
  });
});
