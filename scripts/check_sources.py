"""Takes source packages of Debian with their archive alone, builds each in several lanes, links a program that calls it, and starts it.

usage: check_sources.py PATH_OF_FIBULA FOLDER [--only NAMES] [--lanes NAMES] [--hidden | --tuned] [--all-must-run]

FOLDER keeps what is fetched. One line a package: what needed no hand, and where it stopped. Packages marked hidden were not looked at
while the rules of `take` were written. Needs network for the first run, and the compilers of scripts/install_packages.sh --test.
"""
import argparse
import os
import pathlib
import re
import shutil
import subprocess
import sys

from debian_sources import fetch

options = argparse.ArgumentParser()
options.add_argument("fibula")
options.add_argument("folder")
options.add_argument("--only")
options.add_argument("--hidden", action="store_true")
options.add_argument("--tuned", action="store_true")
options.add_argument("--all-must-run", action="store_true", help="end with status 1 where a program does not run")
options.add_argument("--lanes", default="debug,release,m32,mingw,arm64")
given = options.parse_args()
fibula, folder = os.path.abspath(given.fibula), pathlib.Path(given.folder).resolve()

# Package: header, an expression that calls into the library and is true, C++ or not, hidden or not, a requirement.
PACKAGES = {
    "a52dec": ("<stdint.h>\n#include <a52dec/a52.h>", "a52_init(0) != 0 || 1"),
    "aalib": ("<aalib.h>", "aa_help[0] != 0", "hidden"),
    "angelscript": ("<angelscript.h>", "asGetLibraryVersion()[0] == '2'", "c++", "hidden"),
    "argtable2": ("<argtable2.h>", "arg_lit0(\"a\", 0, 0) != 0"),
    "box2d": ("<box2d/box2d.h>", "b2World(b2Vec2(0, 1)).GetBodyCount() == 0", "c++"),
    "brotli": ("<brotli/encode.h>", "BrotliEncoderMaxCompressedSize(10) > 10 && BrotliEncoderVersion() > 1"),
    "bzip2": ("<bzlib.h>", "BZ2_bzlibVersion()[0] == '1'"),
    "c-ares": ("<ares.h>", "ares_version(0)[0] == '1'"),
    "c-blosc": ("<blosc.h>", "blosc_get_version_string()[0] == '1'", "hidden"),
    "check": ("<stdlib.h>\n#include <check.h>", "suite_create(\"a\") != 0", "hidden"),
    "chipmunk": ("<chipmunk/chipmunk.h>", "cpSpaceNew() != 0"),
    "civetweb": ("<civetweb.h>", "mg_version()[0] == '1'"),
    "cjson": ("<cJSON.h>", "cJSON_IsNull(cJSON_CreateNull()) && cJSON_Version()[0] == '1'"),
    "cmark": ("<cmark.h>", "cmark_version() > 0", "hidden"),
    "cminpack": ("<cminpack.h>", "dpmpar(1) > 0", "hidden"),
    "cmocka": ("<stdarg.h>\n#include <stddef.h>\n#include <setjmp.h>\n#include <stdint.h>\n#include <cmocka.h>", "(cmocka_set_test_filter(\"x\"), 1)", "hidden"),
    "cmph": ("<cmph.h>", "cmph_config_new(0) != 0 || 1"),
    "confuse": ("<confuse.h>", "confuse_version[0] == '3'"),
    "cppunit": ("<cppunit/TestCase.h>", "CppUnit::TestCase(\"a\").getName() == \"a\"", "c++"),
    "cpputest": ("<CppUTest/SimpleString.h>", "SimpleString(\"a\").size() == 1", "c++"),
    "cunit": ("<CUnit/Basic.h>", "CU_initialize_registry() == CUE_SUCCESS"),
    "discount": ("<stdio.h>\n#include <mkdio.h>", "mkd_string(\"a\", 1, 0) != 0"),
    "double-conversion": ("<double-conversion/double-conversion.h>", "double_conversion::StringToDoubleConverter(0, 0, 0, \"\", \"\").StringToFloat(\"1\", 1, &n) == 1", "pre: static int n;", "c++", "hidden"),
    "duktape": ("<duktape.h>", "duk_create_heap_default() != 0"),
    "eigen3": ("<Eigen/Core>", "Eigen::Vector3f(1, 2, 3).sum() == 6", "c++"),
    "enet": ("<enet/enet.h>", "enet_linked_version() > 0"),
    "expat": ("<expat.h>", "XML_ParserCreate(0) != 0 && XML_ExpatVersion()[0] == 'e'"),
    "faad2": ("<neaacdec.h>", "NeAACDecOpen() != 0"),
    "fast-float": ("<fast_float/fast_float.h>", "[] { double d = 0; const char* s = \"1\"; fast_float::from_chars(s, s + 1, d); return d == 1; }()", "c++"),
    "fftw3": ("<fftw3.h>", "fftw_malloc(16) != 0", "hidden"),
    "flac": ("<FLAC/stream_decoder.h>", "FLAC__stream_decoder_new() != 0"),
    "flatbuffers": ("<flatbuffers/flatbuffers.h>", "flatbuffers::FlatBufferBuilder().GetSize() == 0", "c++", "hidden"),
    "fmtlib": ("<fmt/format.h>", "fmt::format(\"{}\", 42) == \"42\"", "c++"),
    "freetype": ("<ft2build.h>\n#include FT_FREETYPE_H", "FT_Init_FreeType(&l) == 0", "pre: static FT_Library l;"),
    "fribidi": ("<fribidi.h>", "fribidi_version_info[0] == '('"),
    "geographiclib": ("<GeographicLib/Geodesic.hpp>", "GeographicLib::Geodesic::WGS84().EquatorialRadius() > 6e6", "c++"),
    "gflags": ("<gflags/gflags.h>", "gflags::VersionString()[0] != 'x'", "c++"),
    "giflib": ("<gif_lib.h>", "GifBitSize(256) == 8 && GifErrorString(D_GIF_ERR_OPEN_FAILED) != 0"),
    "glfw3": ("<GLFW/glfw3.h>", "glfwGetVersionString()[0] == '3'"),
    "gmp": ("<gmp.h>", "(mpz_init_set_ui(a, 7), mpz_cmp_ui(a, 7) == 0)", "pre: static mpz_t a;"),
    "google-glog": ("<glog/logging.h>", "(google::InitGoogleLogging(\"a\"), 1)", "c++"),
    "googletest": ("<gtest/gtest.h>", "(testing::InitGoogleTest(), RUN_ALL_TESTS() == 0)", "c++"),
    "graphite2": ("<graphite2/Font.h>", "(gr_engine_version(&a, &b, &c), a > 0)", "pre: static int a, b, c;", "hidden"),
    "gsl": ("<gsl/gsl_sf_bessel.h>", "gsl_sf_bessel_J0(0.0) == 1.0"),
    "harfbuzz": ("<hb.h>", "hb_version_string()[0] != 0", "hidden"),
    "hidapi": ("<hidapi.h>", "hid_version() != 0"),
    "hiredis": ("<hiredis.h>", "redisReaderCreate() != 0"),
    "http-parser": ("<http_parser.h>", "http_parser_version() > 0", "hidden"),
    "hunspell": ("<hunspell/hunspell.hxx>", "Hunspell(\"x\", \"y\").spell(std::string(\"a\")) || 1", "c++", "hidden"),
    "hyphen": ("<hyphen.h>", "hnj_hyphen_load(\"nowhere\") == 0", "hidden"),
    "jansson": ("<jansson.h>", "json_integer_value(json_integer(5)) == 5"),
    "jbig2dec": ("<stddef.h>\n#include <stdint.h>\n#include <jbig2.h>", "jbig2_ctx_new(0, (Jbig2Options)0, 0, 0, 0) != 0"),
    "jbigkit": ("<jbig.h>", "jbg_newlen(0, 0) != 0", "hidden"),
    "jemalloc": ("<jemalloc/jemalloc.h>", "malloc_usable_size(0) == 0 || 1", "hidden"),
    "jq": ("<jq.h>", "jv_is_valid(jv_true())"),
    "json-c": ("<json.h>", "json_object_get_int(json_object_new_int(5)) == 5"),
    "kissfft": ("<kiss_fft.h>", "kiss_fft_next_fast_size(7) == 8"),
    "lame": ("<lame/lame.h>", "lame_init() != 0", "hidden"),
    "lcms2": ("<lcms2.h>", "cmsCreate_sRGBProfile() != 0 && cmsGetEncodedCMMversion() > 2000", "hidden"),
    "leptonlib": ("<stdio.h>\n#include <leptonica/allheaders.h>", "getLeptonicaVersion()[0] == 'l'", "hidden"),
    "leveldb": ("<leveldb/c.h>", "leveldb_major_version() == 1", "c++"),
    "libaio": ("<libaio.h>", "io_setup(1, &c) == 0 || 1", "pre: static io_context_t c;", "hidden"),
    "libb2": ("<blake2.h>", "blake2b(o, \"a\", 0, 64, 1, 0) == 0", "pre: static unsigned char o[64];"),
    "libb64": ("<b64/cencode.h>", "(base64_init_encodestate(&s), s.step == step_A)", "pre: static base64_encodestate s;"),
    "libbs2b": ("<bs2b.h>", "bs2b_open() != 0"),
    "libcaca": ("<caca.h>", "caca_get_version()[0] == '0'"),
    "libccd": ("<ccd/ccd.h>", "(ccdFirstDirDefault(0, 0, &v), 1)", "pre: static ccd_vec3_t v;"),
    "libcddb": ("<cddb/cddb.h>", "cddb_new() != 0", "hidden"),
    "libcdio": ("<cdio/cdio.h>\n#include <cdio/version.h>", "cdio_version_string != 0", "hidden"),
    "libcereal": ("<cereal/archives/binary.hpp>", "sizeof(cereal::BinaryOutputArchive) > 0", "c++", "hidden"),
    "libcoap3": ("<coap3/coap.h>", "coap_package_version() != 0"),
    "libconfig": ("<libconfig.h>", "(config_init(&c), config_read_string(&c, \"a = 1;\"))", "pre: static config_t c;"),
    "libconfuse": ("<confuse.h>", "confuse_version[0] == '3'"),
    "libcrypto++": ("<sha.h>", "CryptoPP::SHA256().DigestSize() == 32", "c++"),
    "libcsv": ("<csv.h>", "csv_init(&p, 0) == 0", "pre: static struct csv_parser p;", "hidden"),
    "libcue": ("<libcue.h>", "cue_parse_string(\"FILE a WAVE\\n\") != 0 || 1"),
    "libdeflate": ("<libdeflate.h>", "libdeflate_crc32(0, \"a\", 1) == 0xe8b7be43u && libdeflate_alloc_compressor(6) != 0"),
    "libdivsufsort": ("<divsufsort.h>", "divsufsort_version()[0] == '2'"),
    "libdmtx": ("<dmtx.h>", "dmtxVersion()[0] == '0'"),
    "libdv": ("<libdv/dv.h>", "dv_decoder_new(0, 0, 0) != 0"),
    "libdvbpsi": ("<stdint.h>\n#include <stdbool.h>\n#include <dvbpsi/dvbpsi.h>", "dvbpsi_new(0, DVBPSI_MSG_NONE) != 0", "hidden"),
    "libdvdread": ("<stdint.h>\n#include <dvdread/dvd_reader.h>", "DVDOpen(\"/nowhere\") == 0", "hidden"),
    "libebml": ("<ebml/EbmlVersion.h>", "libebml::EbmlCodeVersion.size() > 0", "c++"),
    "libebur128": ("<ebur128.h>", "(ebur128_get_version(&a, &b, &c), a == 1)", "pre: static int a, b, c;"),
    "libedit": ("<histedit.h>", "history_init() != 0", "hidden"),
    "libestr": ("<libestr.h>", "es_newStr(8) != 0", "hidden"),
    "libev": ("<ev.h>", "ev_version_major() == 4", "hidden"),
    "libevent": ("<event2/event.h>", "event_get_version_number() > 0"),
    "libexif": ("<libexif/exif-data.h>", "exif_data_new() != 0"),
    "libexttextcat": ("<libexttextcat/textcat.h>", "textcat_Version() != 0", "hidden"),
    "libfastjson": ("<libfastjson/json.h>", "fjson_object_new_object() != 0", "hidden"),
    "libffi": ("<ffi.h>", "ffi_prep_cif(&c, FFI_DEFAULT_ABI, 0, &ffi_type_sint, 0) == FFI_OK", "pre: static ffi_cif c;"),
    "libfixmath": ("<fix16.h>", "fix16_mul(fix16_one, fix16_one) == fix16_one"),
    "libfyaml": ("<libfyaml.h>", "fy_library_version() != 0"),
    "libgsm": ("<gsm.h>", "gsm_create() != 0", "hidden"),
    "libharu": ("<hpdf.h>", "HPDF_New(0, 0) != 0", "needs: zlib"),
    "libieee1284": ("<ieee1284.h>", "ieee1284_find_ports(&l, 0) == 0 || 1", "pre: static struct parport_list l;"),
    "libimagequant": ("<libimagequant.h>", "liq_version() > 0", "hidden"),
    "libjpeg-turbo": ("<jpeglib.h>", "jpeg_std_error(&e) != 0", "pre: static struct jpeg_error_mgr e;"),
    "libjsoncpp": ("<json/json.h>", "Json::Value(3).asInt() == 3", "c++", "hidden"),
    "liblinear": ("<linear.h>", "liblinear_version > 200", "c++"),
    "liblzf": ("<lzf.h>", "lzf_compress(t, 64, o, 64) > 0", "pre: static char t[64], o[64];"),
    "libmad": ("<mad.h>", "mad_bit_length(&a, &a) == 0", "pre: static struct mad_bitptr a;"),
    "libmaxminddb": ("<maxminddb.h>", "MMDB_lib_version()[0] == '1'"),
    "libmicrohttpd": ("<microhttpd.h>", "MHD_get_version()[0] == '0'"),
    "libmikmod": ("<mikmod.h>", "MikMod_GetVersion() > 0"),
    "libmodbus": ("<modbus.h>", "modbus_strerror(1) != 0"),
    "libmodplug": ("<libmodplug/modplug.h>", "ModPlug_Load(\"a\", 1) == 0"),
    "libmseed": ("<libmseed.h>", "ms_nomsamprate != 0", "hidden"),
    "libmspack": ("<mspack.h>", "mspack_sys_selftest_internal(sizeof(off_t)) == 0"),
    "libnl3": ("<netlink/netlink.h>", "nl_socket_alloc() != 0", "hidden"),
    "libogg": ("<ogg/ogg.h>", "(oggpack_writeinit(&b), oggpack_write(&b, 1, 3), oggpack_bits(&b) == 3)", "pre: static oggpack_buffer b;"),
    "libonig": ("<oniguruma.h>", "onig_version()[0] == '6'", "hidden"),
    "libpcap": ("<pcap.h>", "pcap_lib_version() != 0", "hidden"),
    "libplist": ("<plist/plist.h>", "plist_new_dict() != 0"),
    "libpng1.6": ("<png.h>", "png_access_version_number() > 10000", "needs: zlib"),
    "libpuzzle": ("<puzzle.h>", "(puzzle_init_context(&c), 1)", "pre: static PuzzleContext c;"),
    "librabbitmq": ("<amqp.h>", "amqp_version_number() > 0"),
    "libraw": ("<libraw/libraw.h>", "libraw_versionNumber() > 0", "c++", "hidden"),
    "libresample": ("<libresample.h>", "resample_open(1, 1.0, 2.0) != 0"),
    "librsync": ("<stdio.h>\n#include <librsync.h>", "rs_strerror(RS_DONE) != 0", "hidden"),
    "libsamplerate": ("<samplerate.h>", "src_get_version()[0] == 'l' && src_is_valid_ratio(1.0)"),
    "libscrypt": ("<libscrypt.h>", "libscrypt_scrypt((const uint8_t*)\"a\", 1, (const uint8_t*)\"b\", 1, 16, 1, 1, o, 16) == 0", "pre: static uint8_t o[16];", "hidden"),
    "libsigsegv": ("<sigsegv.h>", "libsigsegv_version > 0"),
    "libsndfile": ("<sndfile.h>", "sf_version_string()[0] == 'l'"),
    "libsodium": ("<sodium.h>", "sodium_init() >= 0"),
    "libsoxr": ("<soxr.h>", "soxr_version()[0] == 'l'"),
    "libspatialindex": ("<spatialindex/capi/sidx_api.h>", "SIDX_Version() != 0", "c++"),
    "libspiro": ("<bezctx.h>\n#include <spiroentrypoints.h>", "LibSpiroVersion()[0] > '0'"),
    "libspng": ("<spng.h>", "spng_version_string()[0] == '0'", "needs: zlib", "hidden"),
    "libsquish": ("<squish.h>", "squish::GetStorageRequirements(4, 4, squish::kDxt1) == 8", "c++", "hidden"),
    "libsrtp2": ("<srtp2/srtp.h>", "srtp_get_version() > 0"),
    "libssh2": ("<libssh2.h>", "libssh2_version(0)[0] == '1'", "hidden"),
    "libsvm": ("<svm.h>", "libsvm_version > 300", "c++"),
    "libtar": ("<libtar.h>", "libtar_version[0] == '1'", "hidden"),
    "libtasn1-6": ("<libtasn1.h>", "asn1_check_version(0) != 0"),
    "libtermkey": ("<termkey.h>", "termkey_new_abstract(\"xterm\", 0) != 0 || 1"),
    "libtheora": ("<theora/codec.h>", "th_version_string()[0] == 'X'", "needs: libogg"),
    "libtomcrypt": ("<tomcrypt.h>", "register_hash(&sha256_desc) >= 0"),
    "libtommath": ("<tommath.h>", "mp_error_to_string(MP_OKAY) != 0", "hidden"),
    "libusb-1.0": ("<libusb-1.0/libusb.h>", "libusb_get_version()->major == 1"),
    "libuv1": ("<uv.h>", "uv_version() > 0"),
    "libvorbis": ("<vorbis/codec.h>", "vorbis_version_string()[0] == 'X'", "needs: libogg"),
    "libvpx": ("<vpx/vpx_codec.h>", "vpx_codec_version() > 0"),
    "libvterm": ("<vterm.h>", "vterm_new(25, 80) != 0", "hidden"),
    "libwebp": ("<webp/decode.h>", "WebPGetDecoderVersion() > 0"),
    "libwebsockets": ("<libwebsockets.h>", "lws_get_library_version()[0] == '4'"),
    "libxlsxwriter": ("<xlsxwriter.h>", "lxw_version()[0] == '1'"),
    "libxml2": ("<libxml/parser.h>", "xmlNewDoc((const xmlChar*)\"1.0\") != 0", "hidden"),
    "libxmp": ("<xmp.h>", "xmp_create_context() != 0"),
    "libyaml": ("<yaml.h>", "yaml_get_version_string()[0] == '0'"),
    "libzip": ("<zip.h>", "zip_libzip_version()[0] == '1'"),
    "libzstd": ("<zstd.h>", "ZSTD_versionNumber() > 10000 && ZSTD_compressBound(1) > 1"),
    "lmdb": ("<lmdb.h>", "mdb_version(0, 0, 0)[0] == 'L'"),
    "lp-solve": ("<lp_lib.h>", "make_lp(0, 2) != 0"),
    "lua5.4": ("<lua.h>\n#include <lauxlib.h>", "luaL_newstate() != 0", "hidden"),
    "lz4": ("<lz4.h>", "LZ4_versionNumber() > 10000 && LZ4_compressBound(1) > 1"),
    "lzo2": ("<lzo/lzo1x.h>", "lzo_init() == LZO_E_OK"),
    "mbedtls": ("<mbedtls/version.h>", "mbedtls_version_get_number() > 0", "hidden"),
    "md4c": ("<md4c.h>", "md_parse(\"a\", 1, &p, 0) != 77", "pre: static int f(MD_BLOCKTYPE t, void* d, void* u) { (void)t; (void)d; (void)u; return 0; } static int g(MD_SPANTYPE t, void* d, void* u) { (void)t; (void)d; (void)u; return 0; } static int h(MD_TEXTTYPE t, const MD_CHAR* c, MD_SIZE s, void* u) { (void)t; (void)c; (void)s; (void)u; return 0; } static MD_PARSER p = {0, 0, f, f, g, g, h, 0, 0};", "hidden"),
    "mimalloc": ("<mimalloc.h>", "mi_version() > 0 && mi_malloc(10) != 0", "hidden"),
    "miniupnpc": ("<miniupnpc.h>", "MINIUPNPC_API_VERSION > 1 && strupnperror(0) != 0", "pre: #include <upnperrors.h>", "hidden"),
    "minizip": ("<zip.h>", "zipOpen(\"/nowhere/x\", 0) == 0", "needs: zlib"),
    "mosquitto": ("<mosquitto.h>", "mosquitto_lib_version(0, 0, 0) > 0"),
    "mpdecimal": ("<mpdecimal.h>", "mpd_version()[0] == '2'"),
    "mpg123": ("<mpg123.h>", "mpg123_init() == 0", "hidden"),
    "msgpack-c": ("<msgpack.h>", "msgpack_version_major() > 0"),
    "mujs": ("<mujs.h>", "js_newstate(0, 0, 0) != 0"),
    "muparser": ("<muParser.h>", "mu::Parser().GetVersion().size() > 0", "c++"),
    "muparserx": ("<mpParser.h>", "mup::ParserX().GetExpr().size() < 99", "c++", "hidden"),
    "mxml": ("<mxml.h>", "mxmlNewXML(\"1.0\") != 0", "hidden"),
    "mythes": ("<mythes.hxx>", "(MyThes(\"x\", \"y\"), 1)", "c++", "hidden"),
    "nanopb": ("<pb_encode.h>", "pb_encode_varint(&s, 1)", "pre: static pb_ostream_t s;"),
    "nettle": ("<nettle/sha2.h>", "(nettle_sha256_init(&c), c.index == 0)", "pre: static struct sha256_ctx c;"),
    "nghttp2": ("<nghttp2/nghttp2.h>", "nghttp2_version(0)->version_num > 0"),
    "nlohmann-json3": ("<nlohmann/json.hpp>", "nlohmann::json::parse(\"[1,2]\").size() == 2", "c++", "hidden"),
    "nlopt": ("<nlopt.h>", "nlopt_create(NLOPT_LN_COBYLA, 2) != 0"),
    "openjpeg2": ("<openjpeg.h>", "opj_version()[0] == '2'"),
    "opus": ("<opus/opus.h>", "opus_get_version_string()[0] == 'l'"),
    "pcre2": ("<stdio.h>\n#define PCRE2_CODE_UNIT_WIDTH 8\n#include <pcre2.h>", "pcre2_config_8(PCRE2_CONFIG_UNICODE, 0) >= 0"),
    "pcre3": ("<pcre.h>", "pcre_version()[0] == '8'", "hidden"),
    "picosat": ("<picosat.h>", "picosat_version()[0] == '9'"),
    "pixman": ("<pixman.h>", "pixman_version() > 0", "hidden"),
    "popt": ("<popt.h>", "poptStrerror(-1) != 0"),
    "portaudio19": ("<portaudio.h>", "Pa_GetVersion() > 0", "hidden"),
    "protobuf-c": ("<protobuf-c/protobuf-c.h>", "protobuf_c_version()[0] == '1'"),
    "pugixml": ("<pugixml.hpp>", "pugi::xml_document().load_string(\"<a/>\")", "c++", "hidden"),
    "qhull": ("<libqhull_r/libqhull_r.h>", "qh_version != 0"),
    "qrencode": ("<qrencode.h>", "QRcode_encodeString(\"a\", 0, QR_ECLEVEL_L, QR_MODE_8, 1) != 0", "hidden"),
    "rapidjson": ("<rapidjson/document.h>", "rapidjson::Document().Parse(\"[1]\").IsArray()", "c++", "hidden"),
    "re2": ("<re2/re2.h>", "re2::RE2(\"a\").ok()", "c++"),
    "rtmidi": ("<RtMidi.h>", "RtMidi::getVersion().size() > 0", "c++", "hidden"),
    "shapelib": ("<shapefil.h>", "SHPTypeName(SHPT_POINT)[0] == 'P'"),
    "simdjson": ("<simdjson.h>", "simdjson::get_active_implementation()->name().size() > 0", "c++"),
    "snappy": ("<snappy.h>", "snappy::MaxCompressedLength(10) > 10", "c++"),
    "snowball": ("<libstemmer.h>", "sb_stemmer_list() != 0"),
    "soundtouch": ("<SoundTouch.h>", "soundtouch::SoundTouch::getVersionId() > 0", "c++", "hidden"),
    "spdlog": ("<spdlog/spdlog.h>", "spdlog::level::from_str(\"info\") == spdlog::level::info", "c++"),
    "speex": ("<speex/speex.h>", "speex_lib_get_mode(0) != 0", "hidden"),
    "sqlite3": ("<sqlite3.h>", "sqlite3_libversion_number() > 3000000"),
    "taglib": ("<tag.h>\n#include <tstring.h>", "TagLib::String(\"a\").size() == 1", "c++"),
    "tidy-html5": ("<tidy.h>", "tidyLibraryVersion()[0] == '5'"),
    "tinyobjloader": ("<tiny_obj_loader.h>", "tinyobj::ObjReader().Valid() == false", "c++"),
    "tinyxml": ("<tinyxml.h>", "TiXmlDocument(\"a\").ErrorId() == 0", "c++"),
    "tinyxml2": ("<tinyxml2.h>", "tinyxml2::XMLDocument().Parse(\"<a/>\") == 0", "c++"),
    "tre": ("<tre/tre.h>", "tre_version()[0] == 'T'", "hidden"),
    "twolame": ("<twolame.h>", "twolame_init() != 0", "hidden"),
    "uchardet": ("<uchardet.h>", "uchardet_new() != 0", "hidden"),
    "unittest++": ("<UnitTest++/UnitTest++.h>", "UnitTest::RunAllTests() == 0", "c++"),
    "utf8proc": ("<utf8proc.h>", "utf8proc_version()[0] == '2' && utf8proc_charwidth('a') == 1", "hidden"),
    "vo-aacenc": ("<voAAC.h>", "voGetAACEncAPI(&a) == 0", "pre: static VO_AUDIO_CODECAPI a;", "hidden"),
    "voro++": ("<voro++.hh>", "voro::voronoicell().p >= 0", "c++"),
    "wavpack": ("<wavpack.h>", "WavpackGetLibraryVersion() > 0x50000"),
    "wildmidi": ("<wildmidi_lib.h>", "WildMidi_GetVersion() > 0"),
    "xxhash": ("<xxhash.h>", "XXH_versionNumber() > 0 && XXH64(\"a\", 1, 0) != 0"),
    "yajl": ("<yajl/yajl_version.h>", "yajl_version() > 0"),
    "yaml-cpp": ("<yaml-cpp/yaml.h>", "YAML::Load(\"[1, 2]\").size() == 2", "c++", "hidden"),
    "zeromq3": ("<zmq.h>", "zmq_ctx_new() != 0"),
    "zlib": ("<zlib.h>", "crc32(0, (const unsigned char*)\"a\", 1) == 0xe8b7be43u && compressBound(1) > 1"),
    "zopfli": ("<zopfli/zopfli.h>", "(ZopfliInitOptions(&o), o.numiterations > 0)", "pre: static ZopfliOptions o;"),
    "tiff": ("<tiffio.h>", "TIFFGetVersion()[0] == 'L' && TIFFIsCODECConfigured(COMPRESSION_LZW)"),
    "capstone": ("<capstone/capstone.h>", "cs_version(0, 0) > 0 && cs_support(CS_ARCH_ARM)"),
    "catch2": ("<catch2/catch.hpp>", "Catch::Detail::stringify(1) == \"1\"", "c++"),
    "glew": ("<GL/glew.h>", "glewGetString(GLEW_VERSION) != 0"),
    "bullet": ("<LinearMath/btVector3.h>\n#include <BulletCollision/CollisionShapes/btBoxShape.h>", "btBoxShape(btVector3(1,1,1)).getNumVertices() == 8", "c++"),
    "poco": ("<Poco/Version.h>\n#include <Poco/DateTime.h>", "Poco::DateTime(2020, 1, 2).year() == 2020", "c++"),
    "libgit2": ("<git2.h>", "git_libgit2_init() > 0"),
    "zint": ("<zint.h>", "ZBarcode_Version() > 0"),
    "draco": ("<draco/core/options.h>", "!draco::Options().IsOptionSet(\"a\")", "c++"),
    "zydis": ("<Zydis/Zydis.h>", "ZydisGetVersion() != 0"),
    "onetbb": ("<tbb/version.h>", "TBB_runtime_interface_version() > 0", "c++"),
    "libcork": ("<libcork/core.h>", "cork_version_string() != 0"),
    "libpsl": ("<libpsl.h>", "psl_get_version()[0] != 0"),
    "libdca": ("<stdint.h>\n#include <dca.h>", "dca_init(0) != 0"),
    "libsdl2": ("<SDL_version.h>\n#include <SDL_cpuinfo.h>", "SDL_GetCPUCount() > 0"),
    "range-v3": ("<range/v3/numeric/accumulate.hpp>\n#include <vector>", "ranges::accumulate(std::vector<int>{1,2}, 0) == 3", "c++"),
    "dav1d": ("<dav1d/dav1d.h>", "dav1d_version()[0] != 0"),
    "x264": ("<stdint.h>\n#include <x264.h>", "x264_chroma_format >= 0"),
    "libseccomp": ("<seccomp.h>", "seccomp_version() != 0"),
    "nng": ("<nng/nng.h>", "nng_strerror(1)[0] != 0"),
    "nanomsg": ("<nanomsg/nn.h>", "nn_strerror(11)[0] != 0"),
    "db5.3": ("<db.h>", "db_version(0, 0, 0)[0] != 0"),
    "qdbm": ("<depot.h>", "dperrmsg(0)[0] != 0"),
    "libmng": ("<libmng.h>", "mng_version_text()[0] != 0"),
    "zbar": ("<zbar.h>", "zbar_version(0, 0, 0) == 0"),
    "libgpiod": ("<gpiod.h>", "gpiod_version_string()[0] != 0"),
    "hwloc": ("<hwloc.h>", "hwloc_get_api_version() != 0"),
    "imath": ("<Imath/ImathVec.h>\n#include <Imath/half.h>", "float(Imath::half(1.0f)) == 1.0f", "c++"),
    "libical3": ("<libical/ical.h>", "icaltime_today().year > 2000"),
    "mruby": ("<mruby.h>", "mrb_open() != 0"),
    "libunwind": ("<libunwind.h>", "unw_strerror(0)[0] != 0"),
    "libzen": ("<ZenLib/Ztring.h>", "ZenLib::Ztring().empty()", "c++"),
    "xz-utils": ("<lzma.h>", "lzma_version_number() > 0 && lzma_crc32((const unsigned char*)\"a\", 1, 0) != 0", "hidden"),
    "libarchive": ("<archive.h>", "archive_read_new() != 0", "hidden"),
    "bearssl": ("<bearssl.h>", "(br_sha256_init((br_sha256_context[1]){{0}}), 1)", "hidden"),
    "speexdsp": ("<speex/speex_resampler.h>", "speex_resampler_strerror(0) != 0", "hidden"),
    "gdbm": ("<gdbm.h>", "gdbm_strerror(0) != 0", "hidden"),
    "libsecp256k1": ("<secp256k1.h>", "secp256k1_context_create(SECP256K1_CONTEXT_NONE) != 0", "hidden"),
    "libopenmpt": ("<libopenmpt/libopenmpt.h>", "openmpt_get_library_version() > 0", "hidden"),
    "mpfr4": ("<mpfr.h>", "mpfr_get_version()[0] == '4'", "needs: gmp", "hidden"),
    "libidn2": ("<idn2.h>", "idn2_check_version(0) != 0", "hidden"),
    "ldns": ("<ldns/ldns.h>", "ldns_version()[0] != 0", "hidden"),
    "meshoptimizer": ("<meshoptimizer.h>", "meshopt_simplifyScale(0, 0, 12) == 0 || 1", "hidden"),
    "rtaudio": ("<RtAudio.h>", "RtAudio::getVersion().size() > 0", "c++", "hidden"),
    "libgd2": ("<gd.h>", "gdImageCreate(2, 2) != 0", "hidden"),
    "mpeg2dec": ("<stdint.h>\n#include <mpeg2.h>", "mpeg2_init() != 0", "hidden"),
    "libao": ("<ao/ao.h>", "(ao_initialize(), ao_is_big_endian() == 0)", "hidden"),
    "ode": ("<ode/ode.h>", "dInitODE2(0) != 0", "hidden"),
    "cli11": ("<CLI/CLI.hpp>", "CLI::App(\"a\").get_name().empty()", "c++", "hidden"),
    "abseil": ("<absl/strings/str_cat.h>", "absl::StrCat(\"a\", 1) == \"a1\"", "c++", "hidden"),
    "highway": ("<hwy/targets.h>", "hwy::SupportedTargets() != 0", "c++", "hidden"),
    "libcap-ng": ("<cap-ng.h>", "capng_name_to_capability(\"chown\") == 0", "hidden"),
    "attr": ("<attr/error_context.h>\n#include <attr/libattr.h>", "attr_copy_fd != 0", "hidden"),
    "libgpg-error": ("<gpg-error.h>", "gpg_strerror(0)[0] != 0", "hidden"),
    "kyotocabinet": ("<kclangc.h>", "kcmalloc(3) != 0", "hidden"),
    "numactl": ("<numa.h>", "numa_available() < 5", "hidden"),
    "libde265": ("<libde265/de265.h>", "de265_get_version()[0] != 0", "hidden"),
    "glm": ("<glm/glm.hpp>", "glm::vec3(1).x == 1.0f", "c++", "hidden"),
    "jimtcl": ("<jim.h>", "Jim_CreateInterp() != 0", "hidden"),
    "libgc": ("<gc.h>", "GC_get_version() != 0", "hidden"),
    "lzlib": ("<stdint.h>\n#include <lzlib.h>", "LZ_version()[0] != 0", "hidden"),
    "libburn": ("<sys/types.h>\n#include <libburn/libburn.h>", "burn_initialize() != 77", "hidden"),
    "libtecla": ("<libtecla.h>", "new_GetLine(100, 100) != 0", "hidden"),
    "readline": ("<stdio.h>\n#include <readline/history.h>", "history_list() == 0", "hidden"),
    "mecab": ("<mecab.h>", "mecab_version()[0] != 0", "hidden"),
    "lodepng": ("<lodepng.h>", "lodepng_error_text(0) != 0", "c++", "hidden"),
    "libdatrie": ("<datrie/trie.h>", "alpha_map_new() != 0", "hidden"),
    "judy": ("<Judy.h>", "JudyLCount(0, 0, 5, 0) == 0"),
    "uthash": ("<utlist.h>\n#include <uthash.h>", "sizeof(UT_hash_handle) > 8", "hidden"),
    "liburcu": ("<urcu.h>", "(rcu_register_thread(), rcu_unregister_thread(), 1)", "hidden"),
    "ck": ("<ck_array.h>", "ck_array_commit != 0", "hidden"),
    "cmark-gfm": ("<cmark-gfm.h>", "cmark_version() > 0"),
    "spandsp": ("<spandsp.h>", "goertzel_init != 0"),
    "liburing": ("<liburing.h>", "io_uring_queue_exit != 0 && io_uring_get_probe != 0", "hidden"),
    "doctest": ("<doctest/doctest.h>", "doctest::Approx(1.0) == 1.0", "pre: #define DOCTEST_CONFIG_IMPLEMENT\n#include <doctest/doctest.h>", "c++"),
    "portmidi": ("<portmidi.h>", "Pm_GetErrorText(pmNoError) != 0", "hidden"),
    "libopenaptx": ("<openaptx.h>", "aptx_init(0) != 0", "hidden"),
    "sonic": ("<sonic.h>", "sonicCreateStream(8000, 1) != 0", "hidden"),
    "flite": ("<flite.h>", "flite_init() >= 0"),
    "libsoundio": ("<soundio/soundio.h>", "soundio_version_string()[0] == '2'"),
    "openmesh": ("<OpenMesh/Core/Geometry/VectorT.hh>\n#include <OpenMesh/Core/System/omstream.hh>", "(omlog().is_enabled(), 1)", "c++", "hidden"),
    "geos": ("<geos_c.h>", "GEOSversion()[0] == '3'"),
    "blitz++": ("<blitz/array.h>", "blitz::Array<int, 1>(3).numElements() == 3", "c++"),
    "howardhinnant-date": ("<date/date.h>", "date::year(2020).is_leap()", "c++", "hidden"),
    "libsmf": ("<smf.h>", "smf_new() != 0"),
    "libpciaccess": ("<pciaccess.h>", "(pci_system_cleanup(), 1)", "hidden"),
    "termbox": ("<termbox.h>", "tb_utf8_char_length('a') == 1", "hidden"),
    "libshout": ("<shout/shout.h>", "shout_version(0, 0, 0)[0] == '2'"),
    "aubio": ("<aubio.h>", "new_fvec(4) != 0"),
    "libunistring": ("<unistr.h>", "u8_check((const uint8_t*)\"a\", 1) == 0", "hidden"),
    "openexr": ("<OpenEXR/ImfVersion.h>", "Imf::isTiled(Imf::TILED_FLAG)", "c++"),
    "libmatheval": ("<matheval.h>", "evaluator_create(\"1+1\") != 0"),
    "cln": ("<cln/integer.h>", "cln::oddp(cln::cl_I(3))", "c++", "hidden"),
    "flint": ("<flint/fmpz.h>", "fmpz_is_prime != 0", "needs: gmp"),
    "ntl": ("<NTL/ZZ.h>", "NTL::NumBits(NTL::to_ZZ(8)) == 4", "c++"),
    "google-perftools": ("<gperftools/profiler.h>", "ProfilingIsEnabledForAllThreads() < 2"),
    "dwarfutils": ("<dwarf.h>\n#include <libdwarf.h>", "dwarf_package_version()[0] != 0", "hidden"),
    "lib3ds": ("<lib3ds/file.h>", "lib3ds_file_new() != 0", "hidden"),
    "libepoxy": ("<epoxy/gl.h>", "epoxy_extension_in_string(\"a b\", \"a\")"),
    "libthai": ("<thai/thctype.h>\n#include <thai/thinp.h>", "th_isaccept('a', 'b', ISC_BASICCHECK) >= 0", "needs: libdatrie"),
    "libmemcached": ("<libmemcached/memcached.h>", "memcached_lib_version()[0] == '1'"),
    "libx86": ("<libx86.h>", "LRMI_int != 0"),
    "libdbi": ("<dbi/dbi.h>", "dbi_version()[0] == 'l'", "hidden"),
    "armadillo": ("<armadillo>", "arma::arma_version::major == 11", "c++", "hidden"),
    "pocketsphinx": ("<pocketsphinx.h>", "ps_args() != 0"),
    "libotf": ("<otf.h>", "OTF_open(\"none\") == 0"),
    "librevenge": ("<librevenge/librevenge.h>", "librevenge::RVNGString(\"a\").size() == 1", "c++"),
    "serd": ("<serd/serd.h>", "serd_strerror(SERD_SUCCESS) != 0", "hidden"),
    "sord": ("<sord/sord.h>", "sord_world_new() != 0", "needs: serd", "hidden"),
    "libdecaf": ("<decaf.h>", "decaf_448_scalar_add != 0"),
    "libassuan": ("<assuan.h>", "assuan_check_version(0)[0] == '2'", "needs: libgpg-error", "hidden"),
    "libdrm": ("<xf86drm.h>", "drmAvailable() < 2"),
    "libfann": ("<fann.h>", "fann_create_standard(2, 2, 2) != 0", "hidden"),
    "libvncserver": ("<rfb/rfb.h>", "rfbNewFramebuffer != 0"),
    "libssh": ("<libssh/libssh.h>", "ssh_version(0)[0] == '0'"),
    "libsigc++-2.0": ("<sigc++/sigc++.h>", "sigc::signal<void>().empty()", "c++"),
    "xdelta3": ("<xdelta3.h>", "xd3_strerror(0) != 0"),
    "acl": ("<sys/acl.h>", "acl_init(1) != 0", "needs: attr"),
    "opusfile": ("<opusfile.h>", "op_test != 0"),
    "libftdi": ("<ftdi.h>", "ftdi_new != 0"),
    "mp3splt": ("<libmp3splt/mp3splt.h>", "mp3splt_new_state(0) != 0"),
}
# Debian's 32-bit headers of Linux come with a package that excludes the cross compilers: the 64-bit ones are the same.
LANES = {
    "debug": ("g++", "configuration = \"debug\"", []),
    "release": ("g++", "", []),
    "m32": ("g++", "flags = [\"-m32\", \"-idirafter\", \"/usr/include/x86_64-linux-gnu\"]", []),
    "mingw": ("x86_64-w64-mingw32-g++", "", ["/usr/lib/wine/wine64"]),
    "arm64": ("aarch64-linux-gnu-g++", "", ["qemu-aarch64", "-L", "/usr/aarch64-linux-gnu"]),
}


def run(*words, work, patience=900):
    try:
        return subprocess.run(list(map(str, words)), cwd=work, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, timeout=patience, check=False, text=True, errors="replace")
    except subprocess.TimeoutExpired:
        return subprocess.CompletedProcess(words, 124, "took too long", "")


def take(package):
    archive = fetch(package, folder)
    if archive is None:
        return None, "not in Debian's sources"
    taken = run(fibula, "take", archive, work=folder)
    name = re.search(r"^(\S+) \S+ (is|was) on the shelf", taken.stdout, re.MULTILINE)
    return (name[1], "") if taken.returncode == 0 and name else (None, taken.stdout.strip().splitlines()[0])


def first_reason(said):
    lines = [line for line in said.splitlines() if re.search(r"error|misfit|failed|No such", line)]
    return (lines or ["?"])[0].strip()[:150]


def try_package(package):
    header, call, *more = PACKAGES[package]
    for other in [one[7:] for one in more if one.startswith("needs: ")]:
        take(other)
    name, problem = take(package)
    if name is None:
        return {}, problem
    work = folder / "projects" / package
    shutil.rmtree(work, ignore_errors=True)
    work.mkdir(parents=True)
    before = "".join(one[5:] + "\n" for one in more if one.startswith("pre: "))
    source = "main.cpp" if "c++" in more else "main.c"
    (work / source).write_text(f"#include <stdio.h>\n#include {header}\n{before}int main(void) {{\n  if (!({call})) return 1;\n  puts(\"called\");\n  return 0;\n}}\n")
    chosen = given.lanes.split(",")
    text = f'[[output]]\nname = "p"\nsources = ["{source}"]\n\n[library."{name}"]\n'
    for lane in chosen:
        text += f'\n[lane.{lane}]\ncompiler = "{LANES[lane][0]}"\n{LANES[lane][1]}\n'
    (work / "fibula.toml").write_text(text)
    outcome, why = {}, ""
    for lane in chosen:
        built = run(fibula, "build", "--allow-steps", "--lane", lane, work=work)
        if built.returncode != 0:
            outcome[lane] = "no"
            why = why or f"{lane}: {first_reason(built.stdout)}"
            continue
        program = work / ".fibula" / lane / "bin" / ("p.exe" if lane == "mingw" else "p")
        started = run(*LANES[lane][2], program, work=work, patience=60)
        outcome[lane] = "runs" if started.returncode == 0 and "called" in started.stdout else "links"
        if outcome[lane] != "runs":
            why = why or f"{lane}: status {started.returncode} {started.stdout.strip()[-100:]}"
    return outcome, why


def main():
    folder.mkdir(parents=True, exist_ok=True)
    os.environ.update(FIBULA_SHELF=str(folder / "shelf-of-check"), FIBULA_CACHE=str(folder / "cache-of-check"), XDG_STATE_HOME=str(folder / "state-of-check"),
                      WINEDEBUG="-all", WINEPREFIX=str(folder / "wine"))
    shutil.rmtree(folder / "shelf-of-check", ignore_errors=True)
    totals = {}
    for package in PACKAGES:
        is_hidden = "hidden" in PACKAGES[package]
        if (given.only and package not in given.only.split(",")) or (given.hidden and not is_hidden) or (given.tuned and is_hidden):
            continue
        outcome, why = try_package(package)
        group = totals.setdefault("hidden" if is_hidden else "tuned", {"packages": 0})
        group["packages"] += 1
        for lane, how in outcome.items():
            group[lane] = group.get(lane, 0) + (how == "runs")
        if outcome and all(outcome.get(lane) == "runs" for lane in ("debug", "release") if lane in outcome):
            group["native without a hand"] = group.get("native without a hand", 0) + 1
        shown = "  ".join(f"{lane} {outcome.get(lane, '-'):5}" for lane in given.lanes.split(","))
        print(f"{package:15} {'hidden' if is_hidden else 'tuned ':6}  {shown}  {why}", flush=True)
    for group, counts in totals.items():
        print(group + ": " + ", ".join(f"{what} {number}" for what, number in counts.items()))
    short = any(counts.get(lane, 0) < counts["packages"] for counts in totals.values() for lane in given.lanes.split(","))
    return 1 if given.all_must_run and (short or not totals) else 0


sys.exit(main())
