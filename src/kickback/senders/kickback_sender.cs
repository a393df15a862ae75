// Sends a game's frames to `kickback record` over TCP, from C#.
//
// This one file needs nothing else. Frame() only puts the values into a queue; a thread of
// its own sends them. When `room` frames are waiting, further ones are dropped, counted,
// and the count is sent: the game's own frame never waits.
using System;
using System.Collections.Concurrent;
using System.Globalization;
using System.Net.Sockets;
using System.Text;
using System.Threading;

public sealed class KickbackSender : IDisposable
{
    const int Nap = 8, Again = 1000, AtOnce = 2000;

    readonly string host, opening;
    readonly int port, columns, room;
    readonly ConcurrentQueue<double[]> frames = new ConcurrentQueue<double[]>();
    readonly Thread worker;
    volatile bool closing;
    TcpClient client;
    long sent, reported;
    int waiting, dropped;
    bool begun;

    // columns: the names of a frame's values, such as "t", "x", "y", "in_jump".
    // header: the inside of the take's header in JSON, such as
    // "\"subject\":\"lamplighter\",\"frame_rate\":60", or "".
    public KickbackSender(string host, int port, string[] columns, string header = "", int room = 20000)
    {
        this.host = host;
        this.port = port;
        this.room = room;
        this.columns = columns.Length;
        opening = "{\"kickback\":1," + header + (header == "" ? "" : ",")
            + "\"columns\":[\"" + string.Join("\",\"", columns) + "\"]}\n";
        worker = new Thread(Work) { IsBackground = true, Name = "kickback" };
        worker.Start();
    }

    // How many frames were dropped so far.
    public int Dropped { get { return dropped; } }

    // Record one frame, its values in the order of the columns; false where it was dropped.
    public bool Frame(params double[] values)
    {
        bool sound = values.Length == columns && Volatile.Read(ref waiting) < room;
        foreach (double value in values)
            sound = sound && !double.IsNaN(value) && !double.IsInfinity(value);
        if (!sound)
        {
            Interlocked.Increment(ref dropped);
            return false;
        }
        Interlocked.Increment(ref waiting);
        frames.Enqueue((double[])values.Clone());
        return true;
    }

    // End the take; the next frame begins another.
    public void End()
    {
        frames.Enqueue(new double[0]);
    }

    // End the take, wait at most three seconds for what is left to be sent, and leave.
    public void Dispose()
    {
        if (closing) return;
        End();
        closing = true;
        worker.Join(3000);
    }

    void Work()
    {
        DateTime next = DateTime.MinValue;
        while (true)
        {
            bool last = closing;
            if (client == null && DateTime.UtcNow >= next)
            {
                Connect();
                next = DateTime.UtcNow.AddMilliseconds(Again);
            }
            if (client != null) Send();
            if (last && (frames.IsEmpty || client == null)) break;
            if (frames.Count < AtOnce) Thread.Sleep(Nap);
        }
        if (client != null) client.Close();
    }

    void Connect()
    {
        TcpClient made = new TcpClient { NoDelay = true, SendTimeout = 5000 };
        try
        {
            made.Connect(host, port);
            client = made;
        }
        catch (SocketException)
        {
            made.Close();
        }
    }

    void Send()
    {
        StringBuilder text = new StringBuilder();
        int taken = 0;
        double[] values;
        while (taken < AtOnce && frames.TryDequeue(out values))
        {
            taken++;
            if (values.Length > 0) Add(text, values);
            else if (begun) AddEnd(text);
        }
        byte[] data = Encoding.UTF8.GetBytes(text.ToString());
        try
        {
            if (data.Length > 0) client.GetStream().Write(data, 0, data.Length);
        }
        catch (Exception)
        {
            Interlocked.Add(ref dropped, taken);
            client.Close();
            client = null;
            begun = false;
            sent = 0;
        }
    }

    void Add(StringBuilder text, double[] values)
    {
        Interlocked.Decrement(ref waiting);
        if (!begun) text.Append(opening);
        begun = true;
        sent++;
        for (int k = 0; k < values.Length; k++)
            text.Append(k == 0 ? '[' : ',').Append(values[k].ToString("R", CultureInfo.InvariantCulture));
        text.Append("]\n");
    }

    void AddEnd(StringBuilder text)
    {
        long lost = dropped - reported;
        text.Append("{\"end\":true,\"sent\":").Append(sent).Append(",\"dropped\":").Append(lost).Append("}\n");
        reported = dropped;
        sent = 0;
        begun = false;
    }
}
