/**
 * When files in a ZIP say that they were made: always the same, for the same bytes. A ZIP tells the time of day without a zone and begins
 * with 1980 (PKWARE's APPNOTE 4.4.6, from memory): its first moment is another one in each zone.
 */
export const zipMoment = (): Date => new Date(1980, 0, 1)
