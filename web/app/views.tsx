import { lazy, type ComponentType } from 'react';

/** A view of a title's channel, by its part of the address. Each is loaded when it is first looked at. */
export interface View {
  path: string;
  name: string;
  View: ComponentType;
}

/** Views that belong to one piece of the work. The first one is where the group's name leads. */
export interface ViewGroup {
  name: string;
  views: readonly View[];
}

const FindingsView = lazy(async () => ({ default: (await import('./findings-page.tsx')).FindingsPage }));
const NewsView = lazy(async () => ({ default: (await import('../changes/news/news-view.tsx')).NewsView }));
const NoiseView = lazy(async () => ({
  default: (await import('../changes/noise/noise-view.tsx')).NoiseView,
}));
const LibraryView = lazy(async () => ({
  default: (await import('../library/library-view.tsx')).LibraryView,
}));
const FamiliesView = lazy(async () => ({
  default: (await import('../library/families-view.tsx')).FamiliesView,
}));
const NamesView = lazy(async () => ({
  default: (await import('../library/names/names-view.tsx')).NamesView,
}));
const LinksView = lazy(async () => ({
  default: (await import('../library/references/links-view.tsx')).LinksView,
}));
const RecipesView = lazy(async () => ({
  default: (await import('../library/recipes/recipes-view.tsx')).RecipesView,
}));
const FormatsView = lazy(async () => ({
  default: (await import('../library/formats/formats-view.tsx')).FormatsView,
}));
const HaulView = lazy(async () => ({ default: (await import('../hauls/haul-view.tsx')).HaulView }));
const CatalogueView = lazy(async () => ({
  default: (await import('../publishing/catalogue-view.tsx')).CatalogueView,
}));
const NotePage = lazy(async () => ({
  default: (await import('../publishing/notes/note-page.tsx')).NotePage,
}));
const CompareView = lazy(async () => ({
  default: (await import('../changes/compare/compare-view.tsx')).CompareView,
}));
const AssetView = lazy(async () => ({ default: (await import('./asset-page.tsx')).AssetPage }));
const NewBuild = lazy(async () => ({ default: (await import('../acquire/builds/new-build.tsx')).NewBuild }));
const WorkView = lazy(async () => ({ default: (await import('../jobs/work-view.tsx')).WorkView }));
const WaysInView = lazy(async () => ({
  default: (await import('../acquire/ways-in/ways-in-view.tsx')).WaysInView,
}));
const KeyringView = lazy(async () => ({
  default: (await import('../acquire/keyring/keyring-view.tsx')).KeyringView,
}));
const StoreView = lazy(async () => ({ default: (await import('../maintenance/store-view.tsx')).StoreView }));
const HistoryView = lazy(async () => ({ default: (await import('../people/history-view.tsx')).HistoryView }));
const KeysView = lazy(async () => ({ default: (await import('./keys-view.tsx')).KeysView }));

/** The views of a channel, by the work that they are for. */
export const channelGroups: readonly ViewGroup[] = [
  {
    name: 'Update',
    views: [
      { path: 'news', name: 'News', View: NewsView },
      { path: 'findings', name: 'Findings', View: FindingsView },
      { path: 'noise', name: 'Noise rules', View: NoiseView },
    ],
  },
  {
    name: 'Library',
    views: [
      { path: 'library', name: 'Assets', View: LibraryView },
      { path: 'families', name: 'Families', View: FamiliesView },
      { path: 'names', name: 'Names', View: NamesView },
      { path: 'links', name: 'Links', View: LinksView },
      { path: 'recipes', name: 'Recipes', View: RecipesView },
      { path: 'formats', name: 'Formats', View: FormatsView },
    ],
  },
  { name: 'Haul', views: [{ path: 'haul', name: 'Haul', View: HaulView }] },
  { name: 'Catalogue', views: [{ path: 'catalogue', name: 'Catalogue', View: CatalogueView }] },
];

/** Views that others lead to, with the group that they stand under. */
export const innerViews: readonly (View & { group: string })[] = [
  { path: 'compare', name: 'Compare', group: 'Update', View: CompareView },
  { path: 'asset', name: 'Asset', group: 'Library', View: AssetView },
  { path: 'new', name: 'Bring in a build', group: 'Update', View: NewBuild },
  { path: 'note', name: 'Note', group: 'Catalogue', View: NotePage },
];

/** Views of the whole house, by their addresses. */
export const workGroup: ViewGroup = {
  name: 'Work',
  views: [
    { path: '/work', name: 'Jobs', View: WorkView },
    { path: '/work/ways-in', name: 'Sources', View: WaysInView },
    { path: '/work/keyring', name: 'Keyring', View: KeyringView },
    { path: '/work/store', name: 'Storage', View: StoreView },
    { path: '/work/history', name: 'History', View: HistoryView },
  ],
};

export const plainViews: readonly View[] = [
  ...workGroup.views,
  { path: '/new', name: 'Bring in a build', View: NewBuild },
  { path: '/keys', name: 'Keyboard', View: KeysView },
];

/** The group that a view of a channel stands under. */
export function groupOf(view: string): ViewGroup | null {
  const inner = innerViews.find(({ path }) => path === view);
  return (
    channelGroups.find(({ name, views }) =>
      inner ? name === inner.group : views.some(({ path }) => path === view),
    ) ?? null
  );
}

export function viewAt(view: string): View | null {
  return (
    [...channelGroups.flatMap(({ views }) => views), ...innerViews].find(({ path }) => path === view) ?? null
  );
}
