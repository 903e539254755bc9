import { chromium } from '@playwright/test'
import { launchOptions, withoutHints } from './tests/support/launch.ts'
import { spawn } from 'node:child_process'
const server = spawn('node',['scripts/serve.mjs'],{env:{...process.env,PORT:'4555'},stdio:'pipe'})
await new Promise(r=>setTimeout(r,2500))
const b=await chromium.launch(launchOptions)
const p=await b.newPage({viewport:{width:1280,height:800},colorScheme:'light'})
await withoutHints(p.context());p.on('console',m=>m.type()==='error'&&console.log('console',m.text()))
await p.goto('http://127.0.0.1:4555/'); await p.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(5).waitFor()
await p.locator('body').press('3'); await p.waitForTimeout(1800)


await p.locator('.tt-field:visible').nth(4).hover()
await p.screenshot({path:'/tmp/v3.png'})
await p.locator('body').press('2'); await p.waitForTimeout(1800)
await p.locator('.tt-field:visible').nth(3).hover()
await p.mouse.move(5,790); await p.screenshot({path:'/tmp/v2.png'}); await p.locator('body').press('4'); await p.waitForTimeout(1500); await p.screenshot({path:'/tmp/v4.png'})
await p.locator('body').press('6'); await p.waitForTimeout(1000)
await p.getByRole('button',{name:'Sweep',exact:true}).click(); await p.waitForTimeout(1000)
await p.screenshot({path:'/tmp/v6.png'})
await b.close(); server.kill()
