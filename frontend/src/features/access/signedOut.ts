import { create } from "zustand";

/** Whether the server wants to know who asks before it answers. */
export const useSignedOut = create<{ isOut: boolean }>(() => ({ isOut: false }));
