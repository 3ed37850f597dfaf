import type { Object3D } from 'three';

/** A node's name as its file has it: the library takes out what its own paths have no room for, and numbers equal ones. */
export function nodeName({ name, userData }: Object3D): string {
  return typeof userData.name === 'string' && userData.name !== '' ? userData.name : name;
}
