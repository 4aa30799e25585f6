import { usualSettings, type WriteSettings } from '@shale/media';

/** How the demo writes its stills. */
export const plainSettings: WriteSettings = { ...usualSettings, quality: 88 };
