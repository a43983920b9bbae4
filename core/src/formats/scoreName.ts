/** Whether a file's name says that it is a score: MusicXML, plain or packed. */
export const isScoreName = (fileName: string): boolean => /\.(musicxml|mxl|xml)$/i.test(fileName);
