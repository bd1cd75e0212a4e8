// Stands for the tests of a library where their common headers are precompiled (CMakeLists.txt).
