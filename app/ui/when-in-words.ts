const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' })

/** When something was, as people read it. */
export const whenInWords = (iso: string): string => moment.format(new Date(iso))
