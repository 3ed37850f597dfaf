import { lstatSync, readlinkSync } from 'node:fs';

/** Debian's bubblewrap: gives a program namespaces of its own. */
export const sandboxProgram = 'bwrap';
/** Where a program in the sandbox sees the archive that it reads. */
export const archivePath = '/archive';

/** Address space of a program that unpacks: 7zz wants the dictionary that an archive asks for, up to 4 GiB. */
const addressSpaceBytes = 3 * 1024 ** 3;
const openFiles = 64;
/** The id of Debian's user `nobody`. */
const nobody = '65534';

/**
 * The arguments for `sandboxProgram` that run a program where it sees the system's programs and libraries, its standard
 * input and output, and no other file: no home, no data folder, no network, no environment, no other process, and no
 * rights. What an archive talks a program into (links, `contents=` of an mtree) finds nothing there.
 * @param file that the program sees, for reading, as `archivePath`
 */
export function sandboxed(program: string, args: readonly string[], file: string | null): string[] {
  return [
    ...systemFolders(),
    ...(file === null ? [] : ['--ro-bind', file, archivePath]),
    ...['--unshare-all', '--die-with-parent', '--new-session', '--cap-drop', 'ALL'],
    ...['--uid', nobody, '--gid', nobody, '--hostname', 'sandbox', '--chdir', '/'],
    ...['--clearenv', '--setenv', 'PATH', '/usr/bin:/bin', '--setenv', 'LC_ALL', 'C.UTF-8', '--'],
    ...['prlimit', `--as=${addressSpaceBytes}`, '--core=0', `--nofile=${openFiles}`, '--'],
    program,
    ...args,
  ];
}

let folders: readonly string[] | null = null;

/** `/usr`, and the folders beside it that are links into it, or folders of their own on older systems. */
function systemFolders(): readonly string[] {
  folders ??= [
    ...['--ro-bind', '/usr', '/usr'],
    ...['/bin', '/lib', '/lib64'].flatMap((folder) => {
      const stat = lstatSync(folder, { throwIfNoEntry: false });
      if (!stat) return [];
      return stat.isSymbolicLink()
        ? ['--symlink', readlinkSync(folder), folder]
        : ['--ro-bind', folder, folder];
    }),
    // Debian's links from the names of programs and libraries to those that are chosen.
    ...['--ro-bind-try', '/etc/alternatives', '/etc/alternatives'],
  ];
  return folders;
}
