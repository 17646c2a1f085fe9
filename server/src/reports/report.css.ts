/** Styles of the printed sheet; prints on A4 and Letter, no chart is cut between pages. */
export const REPORT_CSS = `
*{box-sizing:border-box;margin:0}
html{background:#F6F4EF}
body{font:450 14px/1.42 "Archivo Variable",Archivo,system-ui,sans-serif;color:#1E2429;font-variant-numeric:tabular-nums;-webkit-print-color-adjust:exact;print-color-adjust:exact}
main{max-width:1000px;margin:0 auto;background:#fff;padding:36px 44px}
@page{size:auto;margin:11mm}
@media print{html{background:#fff}main{padding:0;max-width:none;zoom:.74}}
header{display:flex;align-items:flex-end;gap:24px;border-bottom:2px solid #1E2429;padding-bottom:10px;flex-wrap:wrap}
h1{font-size:23px;font-weight:680;font-stretch:112%;letter-spacing:-.01em;line-height:1.15}
h2{font-size:15px;font-weight:650;margin:18px 0 6px}
h2 span{font-weight:450;font-size:12.5px;color:#4C555C;margin-left:8px}
.mut{color:#4C555C}.small{font-size:12.5px}.right{text-align:right}.grow{flex:1}
.lead{font-size:15.5px;padding:12px 0;color:#4C555C;border-bottom:1px solid #DAD6CC}
.lead+.small{padding:8px 0}
.results{display:grid;grid-template-columns:repeat(auto-fit,minmax(280px,1fr));border-bottom:1px solid #DAD6CC}
.result{padding:12px 22px 14px 0;break-inside:avoid}.result+.result{border-left:1px solid #DAD6CC;padding-left:22px}
.badge{display:inline-flex;align-items:center;justify-content:center;min-width:20px;height:19px;padding:0 4px;border-radius:2px;font-weight:700;font-size:12.5px;font-stretch:88%;margin-right:6px}
.fig{font-size:62px;font-weight:620;font-stretch:68%;letter-spacing:-.01em;line-height:1;white-space:nowrap}.fig.struck{text-decoration:line-through;text-decoration-thickness:3px;color:#656D72}
.figrow{display:flex;align-items:flex-end;gap:10px;margin:4px 0 8px;flex-wrap:wrap;row-gap:2px}.figrow .unit{font-size:21px;font-weight:560;padding-bottom:5px}
.verdict{display:inline-flex;align-items:center;gap:7px;font-weight:660;font-size:16px;white-space:nowrap;padding-bottom:6px;margin-left:auto}
.verdict svg{width:15px;height:15px}
section{break-inside:avoid}
.cols{display:grid;grid-template-columns:1fr 1fr;gap:0 32px}
@media screen and (max-width:760px){main{padding:18px}.cols{grid-template-columns:1fr}.result+.result{border-left:0;padding-left:0}}
table{border-collapse:collapse;width:100%;font-size:12.8px;font-stretch:94%}
th{font-weight:500;color:#656D72;text-align:left;font-size:12px}td,th{padding:2.5px 6px 2.5px 0;border-bottom:1px solid #ECE9E1;vertical-align:top}
td.r,th.r{text-align:right}.ranked td{white-space:nowrap}.ranked td.wide{white-space:normal}.strip svg{width:auto;height:auto;margin:0;vertical-align:middle}td svg{width:11px;height:11px;vertical-align:-1px;margin-right:5px}
tr{break-inside:avoid}
.aside{color:#A8281C}.settle{color:#656D72}
.pulls{display:grid;align-items:start;grid-template-columns:repeat(auto-fit,minmax(250px,1fr));gap:10px 22px}
.notes{margin-top:6px}.fittings td{max-width:230px}.fittings td.r{white-space:nowrap}
.schools{display:grid;grid-template-columns:repeat(auto-fill,minmax(280px,1fr));gap:0 22px;margin-top:6px;font-size:12.5px}.schools div{display:flex;gap:10px;justify-content:space-between;border-bottom:1px solid #ECE9E1;padding:2px 0;break-inside:avoid}.schools dt{color:#656D72}.schools dd{text-align:right}
.seal{display:flex;gap:18px;align-items:flex-start;border-top:1px solid #DAD6CC;margin-top:16px;padding-top:4px}.seal svg{flex:none;margin-top:16px}
.note{border-top:2px solid #1E2429;margin-top:16px;padding-top:10px;font-size:12.5px;color:#4C555C}
.note b{color:#1E2429}
code{font:inherit;font-stretch:88%;overflow-wrap:anywhere}
`;
