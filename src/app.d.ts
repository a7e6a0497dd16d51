import type { Refusal } from '$core/result';

declare global {
  namespace App {
    interface Error {
      message: string;
    }
    interface Locals {
      /** What a failure is answered with, where more is known of it than that it failed. */
      refusal?: Refusal;
    }
    interface PageState {
      /** What the page that led here had to say. */
      said?: string;
    }
    interface Platform {
      readonly req: import('node:http').IncomingMessage;
    }
  }
}
export {};
