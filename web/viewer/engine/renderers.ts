import { WebGLRenderer, type WebGLProgram } from 'three';

/** One that nobody draws with is closed after so long: it holds memory of the graphics. */
const spareMs = 10_000;
/** So many programs of a renderer outlive what was drawn with them: to make one anew takes longer than to draw a model. */
const mostKeptPrograms = 24;

let spare: { renderer: WebGLRenderer; timer: ReturnType<typeof setTimeout> } | null = null;
const keptPrograms = new WeakSet<WebGLProgram>();

/**
 * A renderer for a canvas: the one that was drawn with before, where there is one. Whoever goes from one model to the next
 * waits for no new graphics context and for no programs that were there already.
 * @throws Error where the browser has no WebGL
 */
export function takeRenderer(): WebGLRenderer {
  if (spare) {
    const { renderer, timer } = spare;
    spare = null;
    clearTimeout(timer);
    if (!renderer.getContext().isContextLost()) return renderer;
    close(renderer);
  }
  const renderer = new WebGLRenderer({ antialias: !isDrawnInSoftware(), alpha: true });
  // Said at once: the first clearing of all would be black otherwise.
  renderer.setClearColor(0x000000, 0);
  return renderer;
}

/** What browsers call it; from memory, no published source. */
const namesOfSoftware = /swiftshader|llvmpipe|softpipe|software|basic render/i;
let inSoftware: boolean | null = null;

/**
 * Whether there is no graphics processor. Smooth edges make a picture of a map take three times as long then, so that stills
 * alone have them.
 */
export function isDrawnInSoftware(): boolean {
  if (inSoftware !== null) return inSoftware;
  const graphics = document.createElement('canvas').getContext('webgl2');
  const says = graphics?.getExtension('WEBGL_debug_renderer_info');
  const name: unknown = says && graphics?.getParameter(says.UNMASKED_RENDERER_WEBGL);
  inSoftware = typeof name === 'string' && namesOfSoftware.test(name);
  graphics?.getExtension('WEBGL_lose_context')?.loseContext();
  return inSoftware;
}

/** Keeps what a renderer has made out of materials, before these are given back. */
export function keepPrograms({ info }: Pick<WebGLRenderer, 'info'>): void {
  const programs = info.programs ?? [];
  let room = mostKeptPrograms - programs.filter((one) => keptPrograms.has(one)).length;
  for (const program of programs) {
    if (room <= 0) return;
    if (keptPrograms.has(program)) continue;
    keptPrograms.add(program);
    // The library gives a program back with the last material that uses it.
    program.usedTimes++;
    room--;
  }
}

/** Takes a renderer back; one is kept for the next canvas, for a while. */
export function giveBackRenderer(renderer: WebGLRenderer): void {
  renderer.domElement.remove();
  renderer.clippingPlanes = [];
  renderer.renderLists.dispose();
  if (spare) {
    close(renderer);
    return;
  }
  const timer = setTimeout(() => {
    spare = null;
    close(renderer);
  }, spareMs);
  spare = { renderer, timer };
}

function close(renderer: WebGLRenderer): void {
  renderer.dispose();
  renderer.forceContextLoss();
}
