/** What screens and report share: words, figures, colours and the comparison chart. */
export * from './figures.ts';
export * from './verdictStyles.ts';
export * from './measureWords.ts';
export * from './channelPictures.ts';
export * from './palette.ts';
export * from './geometry.ts';
export * from './compareView.ts';
export * from './compareOption.ts';
export { stripCells } from './compareMarks.ts';
export * from './bayWords.ts';
export * from './findingWords.ts';
export * from './instrumentWords.ts';
export * from './planWords.ts';
export * from './runNotes.ts';
export * from './sentences.ts';
export * from './times.ts';
export * from './dayTrack.ts';
export * from './stairWords.ts';
