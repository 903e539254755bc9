import { chromium } from '@playwright/test'
import { launchOptions, withoutHints } from './tests/support/launch.ts'
import { spawn } from 'node:child_process'
const server = spawn('node',['scripts/serve.mjs'],{env:{...process.env,PORT:'4555'},stdio:'pipe'})
await new Promise(r=>setTimeout(r,2500))
const b=await chromium.launch(launchOptions)
const p=await b.newPage({viewport:{width:1280,height:800},colorScheme:'light'})
await withoutHints(p.context());p.on('console',m=>m.type()==='error'&&console.log('console',m.text()))
await p.goto('http://127.0.0.1:4555/'); await p.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(5).waitFor()
await p.locator('body').press('2'); await p.waitForTimeout(1800)
await p.getByRole('button',{name:'+ blur'}).click(); await p.getByRole('button',{name:'+ tint'}).click()
await p.getByRole('region',{name:'Picture slot'}).getByText('More').click()
await p.waitForTimeout(800); await p.mouse.move(5,790); await p.screenshot({path:'/tmp/w1.png'})
await p.getByText('All pictures of the app').click(); await p.waitForTimeout(500)
await p.locator('.tt-panel').evaluate(e=>e.scrollTo(0,9999)); await p.waitForTimeout(300)
await p.emulateMedia({colorScheme:'dark'}); await p.waitForTimeout(500)
await p.screenshot({path:'/tmp/w2.png'})
await b.close(); server.kill()
