/** Plays a sound round and round between its loop points, where somebody wants that. */
export function offerLoop(audio: HTMLAudioElement): void {
  const [begin = 0, end = 0] = (audio.dataset.loop ?? '').split(' ').map(Number);
  if (!(end > begin)) return;
  const button = document.createElement('button');
  button.type = 'button';
  button.textContent = 'Play its loop';
  button.setAttribute('aria-pressed', 'false');
  let isOn = false;
  const keep = (): void => {
    if (!isOn) return;
    if (audio.currentTime >= end) audio.currentTime = begin;
    if (!audio.paused) requestAnimationFrame(keep);
  };
  audio.addEventListener('play', keep);
  audio.addEventListener('ended', () => {
    if (!isOn) return;
    audio.currentTime = begin;
    void audio.play();
  });
  button.addEventListener('click', () => {
    isOn = !isOn;
    button.setAttribute('aria-pressed', String(isOn));
    if (isOn) {
      if (audio.currentTime < begin) audio.currentTime = begin;
      void audio.play();
    }
  });
  audio.after(button);
}
