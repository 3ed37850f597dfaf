declare module '@fontsource/*';
