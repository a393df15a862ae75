/* Sends a game's frames to `kickback record` over TCP, from C99 or C++.
 *
 * This one file needs nothing but the system's sockets. Include it in one source file and
 * call the functions from one thread. No call waits for the network: what the connection
 * does not take yet stays in a buffer, and when that is full, frames are dropped, counted,
 * and the count is sent. Only kickback_close waits, for at most a second.
 */
#ifndef KICKBACK_SENDER_H
#define KICKBACK_SENDER_H

#include <errno.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#ifdef _WIN32
#include <winsock2.h>
#include <ws2tcpip.h>
typedef SOCKET kickback_socket;
#define KICKBACK_NONE INVALID_SOCKET
#define kickback_shut closesocket
#define kickback_busy() (WSAGetLastError() == WSAEWOULDBLOCK || WSAGetLastError() == WSAENOTCONN)
#define KICKBACK_FLAGS 0
#else
#include <fcntl.h>
#include <netdb.h>
#include <sys/select.h>
#include <sys/socket.h>
#include <unistd.h>
typedef int kickback_socket;
#define KICKBACK_NONE (-1)
#define kickback_shut close
#define kickback_busy() (errno == EAGAIN || errno == EWOULDBLOCK || errno == ENOTCONN || errno == EINTR)
#ifdef MSG_NOSIGNAL
#define KICKBACK_FLAGS MSG_NOSIGNAL
#else
#define KICKBACK_FLAGS 0
#endif
#endif

#ifdef __cplusplus
extern "C" {
#endif

#define KICKBACK_ROOM (1 << 20) /* bytes that wait for the network before frames are dropped */
#define KICKBACK_LINE 4096      /* bytes of the longest line */

typedef struct kickback_sender {
    kickback_socket socket;
    struct addrinfo *place;
    char header[KICKBACK_LINE];
    char *buffer;
    size_t used;
    int columns, begun;
    long sent, dropped, reported;
    time_t tried;
} kickback_sender;

static void kickback_connect(kickback_sender *s) {
    s->tried = time(NULL);
    s->socket = socket(s->place->ai_family, s->place->ai_socktype, s->place->ai_protocol);
    if (s->socket == KICKBACK_NONE) return;
#ifdef _WIN32
    { u_long on = 1; ioctlsocket(s->socket, FIONBIO, &on); }
#else
    fcntl(s->socket, F_SETFL, fcntl(s->socket, F_GETFL, 0) | O_NONBLOCK);
#endif
    connect(s->socket, s->place->ai_addr, (int)s->place->ai_addrlen); /* goes on meanwhile */
}

/* Hand the network what it takes now. A lost connection is made again, with the header. */
static void kickback_flush(kickback_sender *s) {
    if (s->socket == KICKBACK_NONE) {
        if (time(NULL) - s->tried >= 1) kickback_connect(s);
        return;
    }
    while (s->used > 0) {
        long taken = (long)send(s->socket, s->buffer, (int)s->used, KICKBACK_FLAGS);
        if (taken < 0 && kickback_busy()) return;
        if (taken <= 0) { /* nobody there, or gone */
            kickback_shut(s->socket);
            s->socket = KICKBACK_NONE;
            s->dropped += s->sent;
            s->used = 0;
            s->sent = 0;
            s->begun = 0;
            return;
        }
        s->used -= (size_t)taken;
        memmove(s->buffer, s->buffer + taken, s->used);
    }
}

static int kickback_line(kickback_sender *s, const char *line, size_t size) {
    if (s->used + size > KICKBACK_ROOM) kickback_flush(s);
    if (s->used + size > KICKBACK_ROOM) return 0;
    memcpy(s->buffer + s->used, line, size);
    s->used += size;
    return 1;
}

/* Begin to send. `columns` names a frame's values: "t,x,y,in_jump". `header` is the inside of
 * the take's header in JSON: "\"subject\":\"lamplighter\",\"frame_rate\":60", or "".
 * Returns 1, or 0 where the address or the memory is no use. */
static int kickback_open(kickback_sender *s, const char *host, int port, const char *columns,
                         const char *header) {
    struct addrinfo wanted;
    char service[16], names[KICKBACK_LINE / 2];
    size_t n = 0;
    const char *c;
#ifdef _WIN32
    WSADATA data;
    WSAStartup(MAKEWORD(2, 2), &data);
#endif
    memset(s, 0, sizeof *s);
    s->socket = KICKBACK_NONE;
    for (c = columns, s->columns = 1, names[n++] = '"'; *c && n < sizeof names - 4; c++) {
        if (*c == ',') {
            memcpy(names + n, "\",\"", 3);
            n += 3;
            s->columns++;
        } else {
            names[n++] = *c;
        }
    }
    names[n++] = '"';
    names[n] = 0;
    if (*c || snprintf(s->header, sizeof s->header, "{\"kickback\":1,%s%s\"columns\":[%s]}\n", header,
                       *header ? "," : "", names) >= (int)sizeof s->header)
        return 0;
    memset(&wanted, 0, sizeof wanted);
    wanted.ai_family = AF_UNSPEC;
    wanted.ai_socktype = SOCK_STREAM;
    snprintf(service, sizeof service, "%d", port);
    s->buffer = (char *)malloc(KICKBACK_ROOM);
    if (!s->buffer || getaddrinfo(host, service, &wanted, &s->place) != 0) return 0;
    kickback_connect(s);
    return 1;
}

/* Record one frame; `values` in the order of the columns. Returns 0 where it was dropped. */
static int kickback_frame(kickback_sender *s, const double *values) {
    char line[KICKBACK_LINE];
    size_t n = 0, i;
    int k;
    kickback_flush(s);
    for (k = 0; k < s->columns; k++) {
        int room = (int)(sizeof line - n) - 3, size;
        size_t from = n + 1;
        line[n++] = k ? ',' : '[';
        size = room > 0 && isfinite(values[k]) ? snprintf(line + n, (size_t)room, "%.17g", values[k]) : -1;
        if (size < 0 || size >= room) {
            s->dropped++;
            return 0;
        }
        n += (size_t)size;
        for (i = from; i < n; i++)
            if (line[i] == ',') line[i] = '.'; /* a locale's decimal comma */
    }
    line[n++] = ']';
    line[n++] = '\n';
    if (!s->begun) s->begun = kickback_line(s, s->header, strlen(s->header));
    if (!s->begun || !kickback_line(s, line, n)) {
        s->dropped++;
        return 0;
    }
    s->sent++;
    return 1;
}

/* End the take; the next frame begins another. */
static void kickback_end(kickback_sender *s) {
    char line[128];
    int size = snprintf(line, sizeof line, "{\"end\":true,\"sent\":%ld,\"dropped\":%ld}\n", s->sent,
                        s->dropped - s->reported);
    if (s->begun && kickback_line(s, line, (size_t)size)) s->reported = s->dropped;
    s->begun = 0;
    s->sent = 0;
    kickback_flush(s);
}

/* End the take, wait at most a second for what is left to be sent, and leave. */
static void kickback_close(kickback_sender *s) {
    int tries;
    kickback_end(s);
    for (tries = 0; tries < 100 && s->used > 0 && s->socket != KICKBACK_NONE; tries++) {
        struct timeval wait = {0, 10000};
        fd_set set;
        FD_ZERO(&set);
        FD_SET(s->socket, &set);
        select((int)s->socket + 1, NULL, &set, NULL, &wait);
        kickback_flush(s);
    }
    if (s->socket != KICKBACK_NONE) kickback_shut(s->socket);
    if (s->place) freeaddrinfo(s->place);
    free(s->buffer);
    memset(s, 0, sizeof *s);
    s->socket = KICKBACK_NONE;
}

#ifdef __cplusplus
}
#endif
#endif
