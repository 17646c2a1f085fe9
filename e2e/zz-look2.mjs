import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os'; import { join } from 'node:path';
import { Builder, By, Key, until } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';
const [email, ...looks]=process.argv.slice(2); const base=process.env.BASE??'http://127.0.0.1:4911';
const options=new chrome.Options(); options.setChromeBinaryPath('/usr/bin/chromium');
options.addArguments(...JSON.parse(readFileSync('/work/main/e2e/chromium.json','utf8')),`--user-data-dir=${mkdtempSync(join(tmpdir(),'look-'))}`);
const driver=await new Builder().forBrowser('chrome').setChromeOptions(options).setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver')).build();
try{
await driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride',{width:Number(process.env.W??1280),height:Number(process.env.H??800),deviceScaleFactor:1,mobile:false});
await driver.get(base+'/sign-in');
await (await driver.wait(until.elementLocated(By.css('input[type=email]')),20000)).sendKeys(email);
await driver.findElement(By.css('input[type=password]')).sendKeys('two settle pulls',Key.ENTER);
await driver.wait(until.elementLocated(By.css('nav a')),20000); await driver.sleep(1500);
await driver.get(base+'/jobs'); await driver.wait(until.elementLocated(By.css('.job-table a')),20000);
const jobs={}; for(const l of await driver.findElements(By.css('.job-table a'))) jobs[await l.getText()]=(await l.getAttribute('href')).replace(base,'');
for(const look of looks){ const [name,path,...acts]=look.split('|');
 let p=path; const m=/^JOB:([^/]*)(.*)$/.exec(path); if(m){ p=Object.entries(jobs).find(([t])=>t.includes(m[1]))[1]+m[2]; }
 await driver.get(base+p); await driver.sleep(4500);
 for(const a of acts){ if(a.startsWith('js:')) await driver.executeScript(a.slice(3)); else if(a.startsWith('scroll:')) await driver.executeScript(`window.scrollTo(0,${a.slice(7)})`); await driver.sleep(900); }
 writeFileSync(`/tmp/look-${name}.png`,Buffer.from(await driver.takeScreenshot(),'base64'));
}
} finally { await driver.quit(); }
