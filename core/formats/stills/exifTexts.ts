/** Texts that EXIF has fields for (EXIF 2.32, 4.6.4), by what they are called here; TIFF has a title too (TIFF 6.0, section 8). */
export const exifTexts = ['Description', 'Author', 'Copyright', 'Make', 'Model', 'DateTime'] as const;
