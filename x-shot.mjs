import { chromium } from "playwright-core";
const b = await chromium.launch({ executablePath: "/usr/bin/chromium" });
for (const [name, path, scheme, w] of JSON.parse(process.argv[2])) {
const c = await b.newContext({ viewport: { width: w??1280, height: 800 }, colorScheme: scheme, timezoneId:"Europe/Berlin" });
const p = await c.newPage();
p.on("pageerror", e=>console.log(name,"PE",e.message.slice(0,200)));
await p.goto("http://127.0.0.1:4310"+path); await p.waitForTimeout(7000);
await p.screenshot({path:`/tmp/s-${name}.png`}); await c.close();
}
await b.close();
