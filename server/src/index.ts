export { createApp, createServices } from "./app.ts";
