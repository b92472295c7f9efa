// What the browser says by itself, in English, by subject. Everything else comes from the server in words.

/** Between the page and the server. */
export const server = {
  answered: (/** @type {number} */ status) => `The server answered ${status}.`,
  undone: (/** @type {number} */ status) => `The server answered ${status}. Nothing was changed.`,
  signedOut: "signed out; sign in again in another tab",
  trying: "trying again",
  waiting: (/** @type {number} */ n, /** @type {string} */ trouble) =>
    n === 0 ? `all saved; ${trouble}` : `not saved yet, ${trouble}: ${n === 1 ? "1 change waits here" : `${n} changes wait here`}`,
  unseen: "What follows cannot be shown at the moment. What you typed is saved; load the page again.",
  somebody: "Somebody else changed this logbook.",
  saved: (/** @type {string} */ about) => `Saved: ${about}.`,
  close: "Close",
  refused: (/** @type {string} */ word) => `${word} Esc brings back what holds.`,
  noteLost: "This did not reach the server. Nothing was changed; what you wrote is still in the box.",
  answerLost: "The server was not reached. Draw or choose once more to send it.",
  partnerCode: "partner code ",
  until: (/** @type {string} */ clock) => ` until ${clock}`,
  noCode: "No code could be made. Try again.",
  marked: "It is there now.",
  unsent: "Nothing was sent.",
};

/** A sheet on the drafting table. */
export const draft = {
  signedOut: "You are signed out. Sign in again in another tab, then go on here: what you typed is still here.",
  lost: "The server was not reached. What you typed is still here, and is sent again.",
  unkept: "not kept yet",
};

/** Tables and their columns. */
export const record = {
  add: "Add column",
  change: (/** @type {string} */ symbol) => `Change column ${symbol}`,
  /** What is typed for a precision. @type {Record<string, string>} */
  precision: {
    resolution: "The last digit is the width of the instrument's step.",
    absolute: "One standard uncertainty, such as 0.05 s.",
    percent: "One standard uncertainty in percent of the value.",
    counting: "A count of things that happen by chance is uncertain by its square root.",
    scale: "The smallest division, such as 1 mm, and into how many parts your eye divides it.",
    column: "Symbol of the column with the standard uncertainties.",
  },
  simulating: "Drawing the readings many times …",
  unsimulated: "The column could not be simulated. Look at its formula and try again.",
  follow: (/** @type {string} */ symbol) => `Let ${symbol} follow again`,
  freeze: (/** @type {string} */ symbol) => `Freeze ${symbol}`,
  followed: "It changes with its curve from now on",
  frozen: "It stays as it is, whatever becomes of its curve",
  target: (/** @type {string} */ cell) => `The next reading goes to ${cell}.`,
  noTarget: "Choose a cell of the table: readings go there.",
  reading: (/** @type {string} */ file) => `Reading ${file} …`,
  fileLost: (/** @type {string} */ file) => `The file ${file} did not reach the server, or is larger than 12 MB. Nothing was changed.`,
  /** Whether a plan has as many trials as the lab asks for. @param {string} typed @param {number} least @param {number} most */
  trials(typed, least, most) {
    const count = Number(typed);
    const word = count < least ? "too few: take smaller intervals" : count > most ? "more than needed: take larger intervals" : "a good number";
    return `${typed || "No"} trials: ${word}. This lab asks for ${least} to ${most}.`;
  },
  missing: (/** @type {string} */ open) => (open ? `Still open: ${open}.` : "Everything the sheet asks for is there."),
  figures: "The line’s figures: Enter moves this box to the next corner, arrows a little",
};

/** Questions of the sheet. */
export const questions = {
  open: (/** @type {number} */ open, /** @type {number} */ total) => `, ${open} of ${total} questions open`,
  point: (/** @type {string} */ what) =>
    `${what === "row" ? "Click a row of the table" : "Click a value in the table"}, or go there with Tab and arrows and press Enter. Esc ends it.`,
  nothingOnStage: "Bring a run or a film to the stage first, and the moment you mean.",
};

/** The stage, what lies on it, and its instruments. */
export const stage = {
  run: "Run",
  pause: "Pause",
  stop: "Stop",
  runRest: "Run the rest, enter each",
  unrun: "as set now, not yet run",
  body: (/** @type {number} */ k, /** @type {string} */ x, /** @type {string} */ y) => `${k === 0 ? "The body" : `Body ${k + 1}`} is at x = ${x}, y = ${y}.`,
  against: (/** @type {string} */ channel) => `${channel} against time`,
  pull: "Pull the shuttle along the rail: hold it with pointer or finger and let go at the end, or hold ← and → and end with Enter. Esc stops without a run.",
  /** The ends of the tape, in their order. @type {[string, string]} */
  tape: ["Zero end of the tape", "Reading end of the tape"],
  pen: (/** @type {string} */ t, /** @type {string} */ y) => `pen at t = ${t} s, ${y}`,
  inWriteUp: "The picture is in the write-up. It needs a sentence before it that says what it shows.",
  /** What is said when there is nothing to enter, by the kind of instrument. @type {Record<string, string>} */
  nothingRead: {
    split: "The split has no time yet. Press Start at one frame and End at another; nothing was entered.",
    area: "The area needs a split. Press Start at one frame and End at another; nothing was entered.",
    tape: "The tape does not lie on the stage. Press Lay, then move its ends; nothing was entered.",
    meter: "The meters show nothing before the first run. Press Run; nothing was entered.",
  },
  nothing: "This reads nothing yet. Nothing was entered.",
};

/** A film on the stage. */
export const film = {
  coming: "The film is coming …",
  mark: (/** @type {string} */ trail) => `Mark of ${trail}`,
  noTrail: "Add a trail first: name the object to be marked.",
  progress: (/** @type {number} */ done, /** @type {number} */ all) => `${done} of ${all} frames`,
  begins: "The program looks for the object …",
  unfollowed: "The server was not reached. No marks were placed; press Follow again.",
  stopped: "Following has stopped, for the server was restarted. The marks so far are kept; press Follow to go on.",
  following: "The program still follows another trail. Press Follow again once it is done; nothing was lost.",
  /** The ends of a ruler. @param {string} name @param {boolean} circle @returns {[string, string]} */
  ruler: (name, circle) => (circle ? [`Centre of ${name}`, `Rim of ${name}`] : [`One end of ${name}`, `Other end of ${name}`]),
  origin: "Origin of the axes",
  direction: "Direction of the x axis",
  corners: ["Lower left corner", "Lower right corner", "Upper right corner", "Upper left corner"],
  at: (/** @type {number} */ x, /** @type {number} */ y) => `${x} px across, ${y} px down`,
};

/** A film that is brought. */
export const intake = {
  noFilm: "This file is not a film that can be read here, or it is damaged.",
  noTrack: "There is no picture track in this file, or it is cut off.",
  undecodable: (/** @type {string} */ codec) => `This device cannot decode the film (${codec}). Save it as H.264 or VP9, or open it on the device it was filmed with.`,
  cutOff: "This film is damaged or cut off.",
  tooShort: "There are fewer than two frames in this film.",
  unplayable: "This device cannot play the film, or the file is damaged.",
  noPicture: "A picture could not be made.",
  empty: "This file is empty.",
  huge: "This file is larger than 4 GB. Cut it first.",
  large: (/** @type {number} */ most) => `This file is larger than ${most} MB.`,
  /** How many frames will be kept. @param {number} n @param {number} most */
  kept(n, most) {
    if (n < 2) return "That leaves fewer than two frames.";
    return n <= most ? `${n} frames will be kept.` : `These are ${n} frames; ${most} are the most. Take a shorter part, or every second frame.`;
  },
  goOn: "Go on",
  pause: "Pause",
  broken: "The film couldn't be added: it may be damaged from here on.",
  cancelled: "Cancelled. Nothing is kept.",
  trying: "no connection, trying again",
  tooMuch: "The pictures take more than the server keeps. Choose a smaller width or a shorter part.",
  progress: (/** @type {number} */ n, /** @type {number} */ all) => `${n} of ${all} frames`,
  partly: (/** @type {number} */ n, /** @type {number} */ all) => `Only ${n} of ${all} frames could be decoded: the film is damaged or cut off. Choose a shorter part.`,
  connection: "The connection broke. Nothing is kept; try again.",
};
