// Types and lint in one go: the linter asks the same program for types that the compiler has just checked, which takes a
// third of the time that both take by themselves. Prints `ok: types` and `ok: lint`, or what is wrong, and ends with the number of failures.
import { ESLint } from 'eslint';
import ts from 'typescript';

const configuration = ts.getParsedCommandLineOfConfigFile(
  'tsconfig.json',
  {},
  {
    ...ts.sys,
    onUnRecoverableConfigFileDiagnostic: ({ messageText }) => {
      throw new Error(ts.flattenDiagnosticMessageText(messageText, '\n'));
    },
  },
);
const program = ts.createProgram({ rootNames: configuration.fileNames, options: configuration.options });

let failures = 0;
const tell = (name, complaints) => {
  const isOk = complaints === '';
  if (!isOk) {
    failures++;
    console.log(complaints);
  }
  console.log(`${isOk ? 'ok' : 'failed'}: ${name}`);
};

const diagnostics = [...configuration.errors, ...ts.getPreEmitDiagnostics(program)];
tell(
  'types',
  ts.formatDiagnostics(diagnostics, {
    getCanonicalFileName: (name) => name,
    getCurrentDirectory: () => process.cwd(),
    getNewLine: () => '\n',
  }),
);

const eslint = new ESLint({
  overrideConfig: {
    files: ['**/*.ts', '**/*.tsx'],
    languageOptions: { parserOptions: { projectService: false, programs: [program] } },
  },
});
const results = await eslint.lintFiles(['.']);
const { format } = await eslint.loadFormatter('stylish');
tell('lint', (await format(results)).trim());
process.exitCode = failures;
