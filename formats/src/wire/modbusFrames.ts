/** Bytes that are no Modbus TCP answer, and why. */
export class FrameError extends Error {}

const HEADER_BYTES = 7;
/** Unit, function code and one byte more; unit and the largest protocol data unit (Modbus Application Protocol V1.1b3). */
const LEAST_LENGTH = 3;
const MOST_LENGTH = 254;

/**
 * Cuts a byte stream into Modbus TCP frames: transaction, protocol 0, length, then so many bytes from the unit on. A length that
 * lies is found before anything is kept, so that no device can make the bay wait for, or keep, more than one frame.
 */
export class ModbusFrames {
  #rest = Buffer.alloc(0);

  /** @throws FrameError for bytes that are no frame of the protocol */
  push(bytes: Buffer): Buffer[] {
    const all = this.#rest.length > 0 ? Buffer.concat([this.#rest, bytes]) : bytes;
    const frames: Buffer[] = [];
    let at = 0;
    while (all.length - at >= HEADER_BYTES) {
      const protocol = all.readUInt16BE(at + 2);
      const length = all.readUInt16BE(at + 4);
      if (protocol !== 0) throw this.#refused(`protocol ${protocol} where 0 belongs`);
      if (length < LEAST_LENGTH || length > MOST_LENGTH) throw this.#refused(`a length of ${length} bytes`);
      const end = at + 6 + length;
      if (end > all.length) break;
      frames.push(all.subarray(at, end));
      at = end;
    }
    this.#rest = Buffer.from(all.subarray(at));
    return frames;
  }

  #refused(what: string): FrameError {
    this.#rest = Buffer.alloc(0);
    return new FrameError(what);
  }
}
