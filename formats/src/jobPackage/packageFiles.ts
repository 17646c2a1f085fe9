/** Files of a package by their path inside it, forward slashes. */
export type PackageFiles = Map<string, Uint8Array>;

export const LARGEST_UNPACKED_BYTES = 200 * 1024 * 1024;
