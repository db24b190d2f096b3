using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;

namespace Zamblo.Storm;

/// <summary>A wire on this machine that hands on what is sent to a port, and that breaks: then all connections over it are gone without a word.</summary>
public sealed class FlakyWire : IAsyncDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly ConcurrentDictionary<Socket, byte> _open = new();
    private readonly CancellationTokenSource _stop = new();
    private readonly int _to;
    private readonly Task _work;
    private volatile bool _isBroken;
    private volatile TaskCompletionSource _flows = new();

    /// <param name="to">The port that it leads to; nobody has to listen there yet.</param>
    public FlakyWire(int to)
    {
        _to = to;
        _flows.SetResult();
        _listener.Start();
        _work = TakeAsync();
    }

    /// <summary>Where it begins.</summary>
    public int Port => ((IPEndPoint)_listener.LocalEndpoint).Port;

    /// <summary>Whoever is connected is cut off, and nobody gets through for so long.</summary>
    public async Task BreakAsync(TimeSpan length)
    {
        _isBroken = true;
        foreach (var socket in _open.Keys)
            Cut(socket);
        await Task.Delay(length);
        _isBroken = false;
    }

    /// <summary>Nothing gets through for so long; then all of it does.</summary>
    public async Task StallAsync(TimeSpan length)
    {
        var waits = _flows = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        await Task.Delay(length);
        waits.SetResult();
    }

    private async Task TakeAsync()
    {
        while (!_stop.IsCancellationRequested)
            try
            {
                var near = await _listener.AcceptSocketAsync(_stop.Token);
                if (_isBroken)
                    Cut(near);
                else
                    _ = CarryAsync(near);
            }
            catch (Exception e) when (e is OperationCanceledException or SocketException)
            {
                // It ends, or whoever came is gone already.
            }
    }

    private async Task CarryAsync(Socket near)
    {
        var far = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
        _open[near] = _open[far] = 0;
        try
        {
            await far.ConnectAsync(IPAddress.Loopback, _to, _stop.Token);
            await Task.WhenAny(PumpAsync(near, far), PumpAsync(far, near));
        }
        catch (Exception e) when (e is SocketException or OperationCanceledException or ObjectDisposedException)
        {
            // Nobody is there.
        }
        Cut(near);
        Cut(far);
    }

    private async Task PumpAsync(Socket from, Socket to)
    {
        var buffer = new byte[1 << 16];
        try
        {
            while (await from.ReceiveAsync(buffer, _stop.Token) is > 0 and var length)
            {
                await _flows.Task.WaitAsync(_stop.Token);
                for (var sent = 0; sent < length; )
                    sent += await to.SendAsync(buffer.AsMemory(sent, length - sent), _stop.Token);
            }
        }
        catch (Exception e) when (e is SocketException or OperationCanceledException or ObjectDisposedException)
        {
            // Cut.
        }
    }

    // At once, and without what was still to be sent.
    private void Cut(Socket socket)
    {
        if (!_open.TryRemove(socket, out _) && !_isBroken)
            return;
        try
        {
            socket.LingerState = new LingerOption(true, 0);
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException)
        {
            // It is gone already.
        }
        socket.Dispose();
    }

    public async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        _listener.Stop();
        foreach (var socket in _open.Keys)
            Cut(socket);
        await _work;
        _stop.Dispose();
    }
}
