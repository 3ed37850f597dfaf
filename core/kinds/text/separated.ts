// Loaded when a table comes, in the browser, too, where the readers of other texts are not wanted.
export { default as papa } from 'papaparse';
