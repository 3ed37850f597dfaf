import { stopSharedDatabase } from './shared-database.ts';

/** Mocha runs it when all tests are done, whatever failed. */
export const mochaGlobalTeardown = stopSharedDatabase;
