/** Paths of the interface; both sides build them here. */
export const paths = {
  events: '/api/events',
  songs: '/api/songs',
  demo: '/api/demo',
  midiImport: '/api/songs/midi',
  song: (id: string) => `/api/songs/${encodeURIComponent(id)}`,
  songSteps: (id: string) => `/api/songs/${encodeURIComponent(id)}/steps`,
  songHistory: (id: string, entryId: string) =>
    `/api/songs/${encodeURIComponent(id)}/history/${encodeURIComponent(entryId)}`,
  songRaw: (id: string) => `/api/songs/${encodeURIComponent(id)}/raw`,
  songRecovered: (id: string) => `/api/songs/${encodeURIComponent(id)}/recovered`,
  bin: '/api/bin',
  binnedSong: (id: string) => `/api/bin/${encodeURIComponent(id)}`,
  backups: '/api/backups',
  backupSongs: (name: string) => `/api/backups/${encodeURIComponent(name)}/songs`,
  backupRestore: (name: string) => `/api/backups/${encodeURIComponent(name)}/restore`,
  health: '/api/health',
  faults: '/api/faults',
  songRevision: (id: string) => `/api/songs/${encodeURIComponent(id)}/revision`,
  songCopy: (id: string) => `/api/songs/${encodeURIComponent(id)}/copy`,
  songRestore: (id: string) => `/api/songs/${encodeURIComponent(id)}/restore`,
  partSound: (songId: string, partId: string) =>
    `/api/songs/${encodeURIComponent(songId)}/parts/${encodeURIComponent(partId)}/sound`,
  recordings: '/api/recordings',
  recording: (hash: string) => `/api/recordings/${hash}`,
  recordingSound: (hash: string) => `/api/recordings/${hash}/sound`,
  /** A WAV file of the samples from one to another. */
  recordingRange: (hash: string, fromSample: number, toSample: number) =>
    `/api/recordings/${hash}/range?from=${fromSample}&to=${toSample}`,
  recordingPeaks: (hash: string) => `/api/recordings/${hash}/peaks`,
  takes: '/api/takes',
  take: (id: string) => `/api/takes/${encodeURIComponent(id)}`,
  /** A block of samples, from a frame on. */
  takeSamples: (id: string, fromFrame: number) =>
    `/api/takes/${encodeURIComponent(id)}/samples?from=${fromFrame}`,
  takeSound: (id: string) => `/api/takes/${encodeURIComponent(id)}/sound`,
  takeKeep: (id: string) => `/api/takes/${encodeURIComponent(id)}/keep`,
  shelf: '/api/shelf',
  shelfItem: (id: string) => `/api/shelf/${encodeURIComponent(id)}`,
  shelfNotes: (id: string) => `/api/shelf/${encodeURIComponent(id)}/notes`,
  shelfRestore: (id: string) => `/api/shelf/${encodeURIComponent(id)}/restore`,
  shelfListen: (id: string) => `/api/shelf/${encodeURIComponent(id)}/listen`,
  readings: '/api/readings',
  reading: (id: string) => `/api/readings/${encodeURIComponent(id)}`,
  readingResult: (id: string) => `/api/readings/${encodeURIComponent(id)}/result`,
};
