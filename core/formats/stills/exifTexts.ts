/** Texts that TIFF and EXIF have fields for (TIFF 6.0, section 8), by what they are called here. */
export const exifTexts = ['Title', 'Description', 'Author', 'Copyright', 'Make', 'Model', 'DateTime'] as const;
