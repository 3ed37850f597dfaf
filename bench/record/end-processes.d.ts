export function endProcessesOf(folder: string): void;
