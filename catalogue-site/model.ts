import { ModelCanvas } from '../web/viewer/engine/model-canvas.ts';

const turnRadians = 0.15;

/** Puts a model that can be turned in the place of its picture; the picture stays where that fails. */
export async function showModel(plate: HTMLElement): Promise<void> {
  const button = plate.querySelector('button');
  try {
    const stage = document.createElement('div');
    stage.style.cssText = 'position:absolute;inset:0';
    stage.tabIndex = 0;
    stage.setAttribute('role', 'application');
    stage.setAttribute('aria-label', 'Model: arrows turn, + and - approach and leave, 0 shows all');
    plate.append(stage);
    const canvas = new ModelCanvas(stage);
    await canvas.load(plate.dataset.model ?? '');
    stage.addEventListener('keydown', ({ key }) => {
      if (key === 'ArrowLeft') canvas.steering.turn(-turnRadians, 0);
      if (key === 'ArrowRight') canvas.steering.turn(turnRadians, 0);
      if (key === 'ArrowUp') canvas.steering.turn(0, turnRadians);
      if (key === 'ArrowDown') canvas.steering.turn(0, -turnRadians);
      if (key === '+') canvas.steering.approach(0.85);
      if (key === '-') canvas.steering.approach(1.18);
      if (key === '0') canvas.lookAtAll();
    });
    plate.querySelector('.plate, img')?.remove();
    plate.dataset.shown = 'true';
    button?.remove();
    stage.focus();
  } catch (error) {
    if (button)
      button.textContent = `It cannot be shown: ${error instanceof Error ? error.message : String(error)}`;
  }
}
