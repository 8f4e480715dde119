import http from "node:http";
import type { AddressInfo } from "node:net";

/** Serves one page on a port of its own. */
export async function elsewhere(html: string, port = 0): Promise<{ address: string; close: () => void }> {
  const server = http.createServer((_, response) => {
    response.setHeader("Content-Type", "text/html");
    response.end(html);
  });
  await new Promise<void>((resolve) => server.listen(port, "127.0.0.1", () => resolve()));
  return {
    address: `http://localhost:${(server.address() as AddressInfo).port}/`,
    close: () => {
      server.close();
      server.closeAllConnections();
    },
  };
}
