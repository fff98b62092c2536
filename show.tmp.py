import json,sys,re
s=json.load(open(sys.argv[1])); pat=sys.argv[2]; mn=float(sys.argv[3]) if len(sys.argv)>3 else 0
for c in s:
    if c['spec']['rateHz']<mn: continue
    m=[x for x in c['misses'] if re.search(pat,x)]
    if m:
        p=c['spec']; f=p.get('fault') or {}
        print(p['number'],p['group'],p['unitId'],f.get('kind'),f.get('component'),round(f.get('severity',0),2),p['profile'],p['rateHz'],p['dialect']); 
        for x in m[:3]: print('    ',x)
