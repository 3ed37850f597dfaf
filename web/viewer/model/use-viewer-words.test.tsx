import { expect } from 'chai';
import type { ReactNode } from 'react';
import { TestPage } from '../../../tests/support/page.ts';
import type { Changes, Said } from './look-address.ts';

describe('What a viewer says of itself', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  afterEach(() => page.clear());

  const open = async (isInAddress: boolean) => {
    const { MemoryRouter, useLocation, useNavigate } = await import('react-router');
    const { useViewerWords } = await import('./use-viewer-words.ts');
    const seen: { said: Said; say: (changes: Changes) => void; search: string; go: (to: string) => void } = {
      ...{ said: { get: () => null }, say: () => undefined, search: '', go: () => undefined },
    };
    function Part(): ReactNode {
      const [said, say] = useViewerWords(isInAddress);
      const navigate = useNavigate();
      const { search } = useLocation();
      Object.assign(seen, { said, say, search, go: (to: string) => void navigate(to) });
      return null;
    }
    page.render(
      <MemoryRouter initialEntries={['/x?see=grey&light=40']}>
        <Part />
      </MemoryRouter>,
    );
    return seen;
  };

  it('stands in the address, and counts at once; what another one says there counts, too', async () => {
    const seen = await open(true);
    expect([seen.said.get('see'), seen.said.get('bone')]).to.deep.equal(['grey', null]);
    await page.act(() => seen.say({ light: '50', see: undefined }));
    expect([seen.said.get('light'), seen.said.get('see')]).to.deep.equal(['50', null]);
    expect(seen.search).to.equal('?light=50');
    await page.act(() => seen.go('/x?light=70&see=normals'));
    expect([seen.said.get('light'), seen.said.get('see')]).to.deep.equal(['70', 'normals']);
  });

  it('is kept by itself where the address is another one’s', async () => {
    const seen = await open(false);
    await page.act(() => seen.say({ light: '50' }));
    expect([seen.said.get('light'), seen.said.get('see')]).to.deep.equal(['50', null]);
    expect(seen.search).to.equal('?see=grey&light=40');
  });
});
