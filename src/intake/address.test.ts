import { networks, resolveAllowed } from "./address";

const ANY = networks("0.0.0.0/0,::/0");
const OURS = networks("127.0.0.0/8,10.0.0.0/8,fc00::/7");

test.each([
  ["127.0.0.1", "127.0.0.1"],
  ["10.1.2.3", "10.1.2.3"],
  ["[fd12::1]", "fd12::1"],
  ["::ffff:10.1.2.3", "::ffff:10.1.2.3"],
])("%s is asked where its network is allowed", async (host, wanted) => {
  expect(await resolveAllowed(host, OURS)).toBe(wanted);
});

test.each(["192.168.1.1", "::1", "8.8.8.8", "::ffff:8.8.8.8"])("%s is not, where its network is not", async (host) => {
  await expect(resolveAllowed(host, OURS)).rejects.toThrow("not in an allowed network");
});

test.each([
  "169.254.169.254",
  "[::ffff:169.254.169.254]",
  "[::ffff:a9fe:a9fe]",
  "[fe80::1]",
  "[fd00:ec2::254]",
  "100.100.100.200",
  "0.0.0.0",
  "[::]",
  "224.0.0.1",
  "255.255.255.255",
])("%s is never asked, whatever is allowed", async (host) => {
  await expect(resolveAllowed(host, ANY)).rejects.toThrow("not in an allowed network");
});
