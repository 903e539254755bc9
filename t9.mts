import { chromium } from '@playwright/test'
import { launchOptions, withoutHints } from './tests/support/launch.ts'
import { spawn } from 'node:child_process'
import { execSync } from 'node:child_process'
execSync('node scripts/tug.mjs vectors make demo/saltmarsh.tiletug.json --out /tmp/V.json')
try { execSync("node scripts/tug.mjs vectors run /tmp/V.json --json -- node node_modules/.bin/tsx tests/support/slipping-loader.ts 'no guard' 2>/dev/null > /tmp/R.json") } catch {}
const server = spawn('node',['scripts/serve.mjs'],{env:{...process.env,PORT:'4555'},stdio:'pipe'})
await new Promise(r=>setTimeout(r,2500))
const b=await chromium.launch(launchOptions)
const p=await b.newPage({viewport:{width:1280,height:800},colorScheme:'light'})
await withoutHints(p.context());p.on('console',m=>m.type()==='error'&&console.log('console',m.text()))
await p.goto('http://127.0.0.1:4555/'); await p.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(5).waitFor()
await p.locator('body').press('7'); await p.waitForTimeout(1500)
await p.getByRole('button',{name:'Make the sheet'}).click()
await p.getByRole('button',{name:'Make it again'}).waitFor({timeout:60000})
await p.screenshot({path:'/tmp/h1.png'})
await p.getByLabel('Results of the cases').setInputFiles('/tmp/R.json'); await p.waitForTimeout(2500)
await p.locator('.tt-vectors').scrollIntoViewIfNeeded(); await p.getByText('✕ failed').first().scrollIntoViewIfNeeded().catch(()=>{})
await p.locator('.tt-vectors .tt-link').nth(1).click(); await p.waitForTimeout(400)
await p.screenshot({path:'/tmp/h2.png'})
await b.close(); server.kill()
