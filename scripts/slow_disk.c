// A slow disk, preloaded: each write to a plain file takes 4 KiB at the most (of large files 64), and
// a while; so does each rename. What takes a write for done at once, or loses the rest of a short one, shows.
#define _GNU_SOURCE
#include <dlfcn.h>
#include <stdio.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

static void a_while(void) {
  const struct timespec t = {0, 200000};
  nanosleep(&t, NULL);
}

ssize_t write(int fd, const void* from, size_t size) {
  static ssize_t (*real)(int, const void*, size_t);
  if (real == NULL) real = (ssize_t(*)(int, const void*, size_t))dlsym(RTLD_NEXT, "write");
  struct stat is;
  if (fstat(fd, &is) == 0 && S_ISREG(is.st_mode)) {
    a_while();
    const size_t most = size > 500000 ? 65536 : 4096;
    if (size > most) size = most;
  }
  return real(fd, from, size);
}

int rename(const char* from, const char* to) {
  static int (*real)(const char*, const char*);
  if (real == NULL) real = (int (*)(const char*, const char*))dlsym(RTLD_NEXT, "rename");
  a_while();
  return real(from, to);
}
