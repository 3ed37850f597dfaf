import * as THREE from 'three';

const maps: Readonly<Record<string, 'map' | 'normalMap' | 'emissiveMap' | 'roughnessMap' | 'metalnessMap'>> =
  {
    map_kd: 'map',
    norm: 'normalMap',
    map_bump: 'normalMap',
    bump: 'normalMap',
    map_ke: 'emissiveMap',
    map_pr: 'roughnessMap',
    map_pm: 'metalnessMap',
  };

/** How many words each option of a map takes; the name of the file is what follows them. */
const optionWords: Readonly<Record<string, number>> = {
  '-bm': 1,
  '-blendu': 1,
  '-blendv': 1,
  '-boost': 1,
  '-cc': 1,
  '-clamp': 1,
  '-imfchan': 1,
  '-mm': 2,
  '-o': 3,
  '-s': 3,
  '-t': 3,
  '-texres': 1,
  '-type': 1,
};

/** Materials of an MTL file; colours are taken as sRGB, as programs write them. Maps are named, and not loaded. */
export function materialsOf(text: string): THREE.MeshStandardMaterial[] {
  const materials: THREE.MeshStandardMaterial[] = [];
  for (const line of text.split(/\r\n|\r|\n/)) {
    const [key = '', ...words] = line.trim().split(/\s+/);
    if (key === 'newmtl') {
      materials.push(new THREE.MeshStandardMaterial({ name: words.join(' '), roughness: 0.8, metalness: 0 }));
      continue;
    }
    const material = materials.at(-1);
    if (!material) continue;
    const numbers = words.map(Number);
    const slot = maps[key.toLowerCase()];
    if (slot) material[slot] = named(fileOf(words));
    else if (key === 'Kd')
      material.color.setRGB(numbers[0] ?? 0, numbers[1] ?? 0, numbers[2] ?? 0, THREE.SRGBColorSpace);
    else if (key === 'Ke') material.emissive.setRGB(numbers[0] ?? 0, numbers[1] ?? 0, numbers[2] ?? 0);
    else if (key === 'd') material.opacity = numbers[0] ?? 1;
    else if (key === 'Pr') material.roughness = numbers[0] ?? 1;
    else if (key === 'Pm') material.metalness = numbers[0] ?? 0;
  }
  return materials;
}

function fileOf(words: readonly string[]): string {
  let at = 0;
  while (at < words.length - 1 && words[at]?.startsWith('-')) at += 1 + (optionWords[words[at] ?? ''] ?? 1);
  return words.slice(at).join(' ').replaceAll('\\', '/').replace(/^\.\//, '');
}

function named(file: string): THREE.Texture {
  const texture = new THREE.Texture();
  texture.userData = { file };
  return texture;
}
