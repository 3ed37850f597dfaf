import './site.css';

// Pages are whole without this script. It adds the search, and models that can be turned.
const root = document.body.dataset.root ?? '';
if (document.getElementById('search'))
  void import('./search.ts').then(({ startSearch }) => startSearch(root));
const loops = document.querySelectorAll<HTMLAudioElement>('audio[data-loop]');
if (loops.length > 0) void import('./loops.ts').then(({ offerLoop }) => loops.forEach(offerLoop));
for (const plate of document.querySelectorAll<HTMLElement>('[data-model]')) offerModel(plate);

/** The 3D library is large: it comes when somebody asks for a model. */
function offerModel(plate: HTMLElement): void {
  const button = document.createElement('button');
  button.className = 'show-model';
  button.textContent = 'Turn it in 3D';
  button.addEventListener('click', () => {
    button.textContent = 'Loading…';
    void import('./model.ts').then(({ showModel }) => showModel(plate));
  });
  plate.append(button);
}
