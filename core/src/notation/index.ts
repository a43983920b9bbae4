/** Between scores and songs. */
export { readScore, type ScoreContents } from './readScore.ts';
export { ScoreFormatError } from './scoreXml.ts';
