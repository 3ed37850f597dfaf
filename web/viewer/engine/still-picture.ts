/** A picture of what stands on a canvas, made smaller where that is larger. */
export function blobOf(
  canvas: HTMLCanvasElement,
  { width, height, type }: { width: number; height: number; type: 'image/png' | 'image/webp' },
): Promise<Blob | null> {
  let drawn = canvas;
  if (canvas.width !== width) {
    drawn = Object.assign(document.createElement('canvas'), { width, height });
    const paper = drawn.getContext('2d');
    if (!paper) return Promise.resolve(null);
    paper.imageSmoothingQuality = 'high';
    paper.drawImage(canvas, 0, 0, width, height);
  }
  return new Promise((resolve) => drawn.toBlob(resolve, type, type === 'image/webp' ? 0.9 : undefined));
}
