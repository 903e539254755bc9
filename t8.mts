import { chromium } from '@playwright/test'
import { launchOptions, withoutHints } from './tests/support/launch.ts'
import { spawn } from 'node:child_process'
const server = spawn('node',['scripts/serve.mjs'],{env:{...process.env,PORT:'4555'},stdio:'pipe'})
await new Promise(r=>setTimeout(r,2500))
const b=await chromium.launch(launchOptions)
for (const [w,h] of [[1280,800],[1024,768],[1440,900],[390,844]]) {
const p=await b.newPage({viewport:{width:w,height:h},colorScheme:'light'})
await withoutHints(p.context())
await p.goto('http://127.0.0.1:4555/'); await p.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(5).waitFor()
for (const s of '1234567'){ await p.locator('body').press(s); await p.waitForTimeout(1500)
console.log(w,s, await p.evaluate(()=>{const q=document.querySelector('.tt-panel')!; const st=q.querySelector('.tt-step')! ; const cards=[...q.querySelectorAll('.tt-card')].map(c=>{const r=c.getBoundingClientRect();return (c.querySelector('h2,h3')?.textContent??'').slice(0,18)+' '+Math.round(r.top)+'-'+Math.round(r.bottom)}); return [q.clientHeight,q.scrollHeight,st.clientHeight,st.scrollHeight,Math.round(q.getBoundingClientRect().bottom),document.documentElement.scrollWidth,cards.join(' | ')].join(' ')})) }
await p.close()
}
await b.close(); server.kill()
