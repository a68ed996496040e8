// The deliver room: a waybill for what leaves. The manifest of a bundle, what a device makes of it, checks before it, and the proof after.
export * from './manifest';
export * from './device';
export * from './preflight';
export * from './proof';
