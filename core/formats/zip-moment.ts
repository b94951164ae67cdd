/**
 * When files in a ZIP say that they were made: always the same, for the same bytes. A ZIP tells the time of day without
 * a zone and begins with 1980 (PKWARE's APPNOTE 4.4.6, from memory): its first moment is another one in each zone, as
 * this text without a zone is.
 */
export const ZIP_MOMENT = '1980-01-01T00:00:00'
