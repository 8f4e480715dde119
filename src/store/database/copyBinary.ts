/** PostgreSQL's binary COPY format (PostgreSQL manual, COPY, "Binary Format"). */

const SIGNATURE = Buffer.from("PGCOPY\n\u00ff\r\n\u0000", "latin1");

export type Field = { type: "int2" | "int4" | "int8"; value: number } | { type: "bytea"; value: Uint8Array };

const SIZES = { int2: 2, int4: 4, int8: 8 } as const;

/** Encodes rows for COPY … FROM STDIN (FORMAT binary). */
export function encodeCopy(rows: readonly (readonly Field[])[]): Buffer {
  let size = SIGNATURE.length + 8 + 2;
  for (const row of rows) {
    size += 2;
    for (const field of row) size += 4 + (field.type === "bytea" ? field.value.length : SIZES[field.type]);
  }
  const out = Buffer.allocUnsafe(size);
  let at = SIGNATURE.copy(out);
  at = out.writeInt32BE(0, at);
  at = out.writeInt32BE(0, at);
  for (const row of rows) {
    at = out.writeInt16BE(row.length, at);
    for (const field of row) {
      if (field.type === "bytea") {
        at = out.writeInt32BE(field.value.length, at);
        out.set(field.value, at);
        at += field.value.length;
        continue;
      }
      at = out.writeInt32BE(SIZES[field.type], at);
      if (field.type === "int2") at = out.writeInt16BE(field.value, at);
      else if (field.type === "int4") at = out.writeInt32BE(field.value, at);
      else at = out.writeBigInt64BE(BigInt(field.value), at);
    }
  }
  out.writeInt16BE(-1, at);
  return out;
}

/** Splits the output of COPY … TO STDOUT (FORMAT binary) into fields; they are views, not copies. */
export function decodeCopy(bytes: Buffer): Buffer[][] {
  if (bytes.length === 0) return [];
  if (bytes.compare(SIGNATURE, 0, SIGNATURE.length, 0, SIGNATURE.length) !== 0)
    throw new Error("not binary COPY output");
  let at = SIGNATURE.length + 4;
  at += 4 + bytes.readInt32BE(at);
  const rows: Buffer[][] = [];
  for (;;) {
    const fields = bytes.readInt16BE(at);
    at += 2;
    if (fields === -1) return rows;
    const row: Buffer[] = [];
    for (let i = 0; i < fields; i++) {
      const size = bytes.readInt32BE(at);
      at += 4;
      row.push(bytes.subarray(at, at + size));
      at += size;
    }
    rows.push(row);
  }
}
