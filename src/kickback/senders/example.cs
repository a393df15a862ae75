using System;
using System.Threading;

static class Example
{
    static void Main(string[] arguments)
    {
        int port = arguments.Length > 0 ? int.Parse(arguments[0]) : 7425;
        using (var take = new KickbackSender("127.0.0.1", port, new[] { "t", "x", "y", "vx" }, "\"subject\":\"lamplighter\""))
        {
            double x = 0, v = 0;
            for (int frame = 1; frame <= 180; frame++)
            {
                v = Math.Min(8, v + 40 / 60.0);
                x += v / 60;
                take.Frame(frame / 60.0, x, 0, v);
                Thread.Sleep(16);
            }
        }
    }
}
