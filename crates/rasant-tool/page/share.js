// Pictures, clips and links.

/** @import { LinkMessage } from "./messages.js" */
/** @typedef {Omit<LinkMessage, "message">} Link */

/** Downloads a file. @param {Blob} blob @param {string} name */
function download(blob, name) {
  const anchor = Object.assign(document.createElement("a"), { href: URL.createObjectURL(blob), download: name });
  anchor.click();
  setTimeout(() => URL.revokeObjectURL(anchor.href), 10_000);
}

/** Draws canvases over each other into one. @param {HTMLCanvasElement[]} layers @param {HTMLCanvasElement} into */
function compose(layers, into) {
  const pen = into.getContext("2d");
  for (const layer of layers) pen?.drawImage(layer, 0, 0, into.width, into.height);
}

/** Downloads a picture of the layers as last drawn. Resolves to its size in bytes.
 *  @param {HTMLCanvasElement[]} layers @param {string} name @returns {Promise<number>} */
export function savePicture(layers, name) {
  const picture = Object.assign(document.createElement("canvas"), { width: layers[0].width, height: layers[0].height });
  compose(layers, picture);
  return new Promise((done) => picture.toBlob((blob) => {
    if (blob) download(blob, name);
    done(blob?.size ?? 0);
  }, "image/png"));
}

/** A clip that is being recorded. */
export class Clip {
  /** @param {HTMLCanvasElement[]} layers @param {string} name @param {(bytes: number) => void} done */
  constructor(layers, name, done) {
    // Encoders require even sizes.
    this.canvas = Object.assign(document.createElement("canvas"), { width: layers[0].width & ~1, height: layers[0].height & ~1 });
    compose(layers, this.canvas);
    const kind = ["video/webm;codecs=vp9", "video/webm;codecs=vp8", "video/webm"].find((one) => MediaRecorder.isTypeSupported(one));
    this.recorder = new MediaRecorder(this.canvas.captureStream(60), kind ? { mimeType: kind, videoBitsPerSecond: 6_000_000 } : {});
    /** @type {Blob[]} */
    const parts = [];
    this.recorder.ondataavailable = ({ data }) => parts.push(data);
    this.recorder.onstop = () => {
      const blob = new Blob(parts, { type: "video/webm" });
      if (blob.size) download(blob, name);
      done(blob.size);
    };
    this.began = performance.now();
    this.recorder.start(500);
  }

  get seconds() { return (performance.now() - this.began) / 1000; }
  /** Adds the frame that was just drawn. @param {HTMLCanvasElement[]} layers */
  add(layers) { compose(layers, this.canvas); }
  stop() { this.recorder.stop(); }
}

/** The prefix of the fragment of a link. */
const HEAD = "#play=";

/** @param {ReadableStream<BufferSource>} stream */
const bytesOf = async (stream) => new Uint8Array(await new Response(/** @type {ReadableStream} */ (stream)).arrayBuffer());

/** Returns the fragment of an address that opens a moment. @param {Link} link */
export async function linkTo(link) {
  const packed = await bytesOf(new Blob([JSON.stringify(link)]).stream().pipeThrough(new CompressionStream("deflate-raw")));
  const text = Array.from(packed, (byte) => String.fromCharCode(byte)).join("");
  return HEAD + btoa(text).replaceAll("+", "-").replaceAll("/", "_").replaceAll("=", "");
}

/** Reads the fragment of an address; null if it is not a link to a moment. Throws if it is a
 *  broken one. @param {string} hash @returns {Promise<Link | null>} */
export async function readLink(hash) {
  if (!hash.startsWith(HEAD)) return null;
  const text = atob(hash.slice(HEAD.length).replaceAll("-", "+").replaceAll("_", "/"));
  const packed = Uint8Array.from(text, (char) => char.charCodeAt(0));
  const bytes = await bytesOf(new Blob([packed]).stream().pipeThrough(new DecompressionStream("deflate-raw")));
  return JSON.parse(new TextDecoder().decode(bytes));
}
