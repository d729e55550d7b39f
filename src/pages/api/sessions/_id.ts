/** What a session is called outside: enough of its id to tell it from a user's others. */
export const publicId = (id: string): string => id.slice(0, 16);
