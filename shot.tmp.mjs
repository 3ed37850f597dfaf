import { chromium } from 'playwright-core';
const [,, url, out, mode='light', ...steps] = process.argv;
const b = await chromium.launch({executablePath:'/usr/bin/chromium',args:['--no-sandbox','--enable-unsafe-swiftshader','--use-gl=angle','--use-angle=swiftshader']});
const p = await b.newPage({viewport:{width:1280,height:800},colorScheme:mode});
p.on('pageerror',e=>console.log('ERR',e.message)); p.on('console',m=>m.type()==='error'&&console.log('CON',m.text()));
await p.goto(url); await p.waitForTimeout(2500);
for (const s of steps) { const [k,...v]=s.split('='); const val=v.join('='); if(k==='click') await p.getByText(val,{exact:true}).first().click(); else if(k==='btn') await p.getByRole('button',{name:val}).first().click(); else if(k==='key') await p.keyboard.press(val); else if(k==='wait') await p.waitForTimeout(+val); else if(k==='opt') await p.getByRole('option').nth(+val).click(); await p.waitForTimeout(500);}
await p.screenshot({path:out}); await b.close();
