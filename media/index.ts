export * from './formats/index.ts';
export { writeExr } from './formats/exr.ts';
export { exrAddon } from './exr/addon.ts';
export * from './kernels.ts';
export * from './look.ts';
export * from './preview.ts';
export * from './video/clip.ts';
export * from './video/libav.ts';
