/** Paths of the interface; both sides build them here. */
export const paths = {
  events: '/api/events',
  songs: '/api/songs',
  demo: '/api/demo',
  midiImport: '/api/songs/midi',
  song: (id: string) => `/api/songs/${encodeURIComponent(id)}`,
  songSteps: (id: string) => `/api/songs/${encodeURIComponent(id)}/steps`,
  songCopy: (id: string) => `/api/songs/${encodeURIComponent(id)}/copy`,
  songRestore: (id: string) => `/api/songs/${encodeURIComponent(id)}/restore`,
  partSound: (songId: string, partId: string) =>
    `/api/songs/${encodeURIComponent(songId)}/parts/${encodeURIComponent(partId)}/sound`,
  recordings: '/api/recordings',
  recording: (hash: string) => `/api/recordings/${hash}`,
  recordingSound: (hash: string) => `/api/recordings/${hash}/sound`,
  recordingPeaks: (hash: string) => `/api/recordings/${hash}/peaks`,
  readings: '/api/readings',
  reading: (id: string) => `/api/readings/${encodeURIComponent(id)}`,
  readingResult: (id: string) => `/api/readings/${encodeURIComponent(id)}/result`,
};
