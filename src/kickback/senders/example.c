#define _POSIX_C_SOURCE 200112L
#include "kickback_sender.h"

int main(int argc, char **argv) {
    kickback_sender take;
    double x = 0, v = 0;
    if (!kickback_open(&take, "127.0.0.1", argc > 1 ? atoi(argv[1]) : 7425, "t,x,y,vx", "\"subject\":\"lamplighter\"")) return 1;
    for (int frame = 1; frame <= 180; frame++) {
        double values[4] = {frame / 60.0, x += (v = fmin(8, v + 40 / 60.0)) / 60, 0, v};
        struct timespec step = {0, 16666667};
        kickback_frame(&take, values);
        nanosleep(&step, NULL);
    }
    kickback_close(&take);
    return 0;
}
