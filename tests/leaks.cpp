// What the leak check shall pass over: Fontconfig, which cairo asks for fonts, keeps its tables to
// the end of the process. Linked into everything that runs under AddressSanitizer.
extern "C" const char* __lsan_default_suppressions() { return "leak:libfontconfig\n"; }
