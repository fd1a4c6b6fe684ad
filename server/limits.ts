/** Every limit of Intake in one place; docs/security.md says them to people. */
export const LIMITS = {
  /** Bytes of one file. */
  fileBytes: 8 * 1024 ** 3,
  /** Pixels of one frame, and of all frames of an animation together. */
  framePixels: 268_000_000,
  allPixels: 500_000_000,
  /** Files that may wait for one person at a time, and their bytes. */
  waiting: 10_000,
  waitingBytes: 64 * 1024 ** 3,
  /** Milliseconds after which a file that is no longer being sent is forgotten, with what has come of it. */
  unfinished: 24 * 3600_000,
  /** Milliseconds that an export is kept for. */
  exportsKept: 14 * 24 * 3600_000,
  /** An archive: files, bytes unpacked, unpacked to packed bytes of one entry. */
  archiveFiles: 5000,
  archiveBytes: 2 * 1024 ** 3,
  archiveRatio: 200,
  /** Bytes of a drawing, and of its text once its own entities are put in; so many times its own length at most. */
  drawingBytes: 20_000_000,
  drawingExpanded: 40_000_000,
  drawingGrowth: 20,
  /** Characters of text kept of a document, and pages and entries read for it. */
  textLength: 200_000,
  textPages: 200,
  officeBytes: 50_000_000,
  /**
   * Milliseconds for checking and measuring one file, and one that is called an image; MB that one task may take on top of what its worker had, decoders
   * included; MB of a worker's JavaScript heap.
   */
  checkTime: 120_000,
  pictureTime: 30_000,
  /** Milliseconds for reading or removing what one file says of itself. */
  metadataTime: 60_000,
  taskMemory: 768,
  workerMemory: 1024,
  /**
   * MB that a worker holds with all decoders loaded, and MB that it asks the system for then without ever using them (one decoder asks for
   * 1 GB): with `taskMemory`, what it may hold at most, and what the system gives it at most.
   */
  workerBase: 512,
  workerUnused: 1200,
  /** MB that a process may take which reads what files say of themselves, and how many of them there are. */
  metadataMemory: 400,
  metadataProcesses: 3,
  /** Milliseconds for an answer of another server, for a file in all, and how often it may lead on. */
  fetchTime: 30_000,
  fetchWhole: 30 * 60_000,
  fetchRedirects: 5,
  /** An outside service: milliseconds for one answer, how often a question is asked again, bytes of an answer and of a picture to look at. */
  serviceTime: 10_000,
  serviceTries: 3,
  serviceAnswer: 1_000_000,
  servicePicture: 5_000_000,
} as const;

/** Milliseconds that the encoding of a video may take. */
export const FILM_LIMIT = 30 * 60_000;
