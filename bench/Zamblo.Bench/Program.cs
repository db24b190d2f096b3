using System.Diagnostics;
using Zamblo.Core;
using Zamblo.Core.Performance;
using Zamblo.Core.Stage;
using Zamblo.Media;
var members = new[] { new StageMember("maro", 640, 790, 0.62f, false, [], new()), new StageMember("bubb", 380, 612, 0.42f, true, [], new PerformanceDials { Seed = 2 }), new StageMember("tock", 905, 610, 0.4f, true, [], new PerformanceDials { Seed = 3 }) };
var s = new StageScene("bakery", members, new FrameRate(25), 60);
var sw = Stopwatch.StartNew();
var l = s.Draw(100, 100);
using var r = new Rasteriser(1280, 720, (0, 0, 1280, 720), false);
r.Draw(l, 0, s.BackCount);
double T(Func<int, bool> keep) { var l2 = new DrawingList(l.Shapes, l.Frames.Select(f => f.Select((x, i) => keep(i) ? x : x with { Opacity = 0 }).ToArray()).ToArray()); r.Draw(l2, 0, s.BackCount); sw.Restart(); for (int i = 0; i < 50; i++) r.Draw(l2, i, s.BackCount); return sw.Elapsed.TotalMilliseconds / 50; }
var none = T(i => false);
Console.WriteLine($"none {none:0.00} all {T(i => true):0.00}");
var costs = Enumerable.Range(s.BackCount, l.Shapes.Count - s.BackCount).Select(k => (k, T(i => i == k) - none)).OrderByDescending(x => x.Item2).Take(25);
foreach (var (k, c) in costs) Console.WriteLine($"{k} {c:0.000} fill {l.Shapes[k].Fill} st {l.Shapes[k].Stroke} {l.Shapes[k].Path?[..Math.Min(60, l.Shapes[k].Path!.Length)]}");
