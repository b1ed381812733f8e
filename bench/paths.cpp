// A minimal path tracer on Embree, to hold the renderer's time against: Lambert, an even sky and one softbox, both
// sampled directly and by the BSDF with the power heuristic, up to 4 bounces, Russian roulette from the third, single
// rays, all processors over square tiles. The file, little endian: counts of vertices and triangles as uint32,
// float32 positions, uint32 indices. Arguments: file, side of the picture, samples. It prints the seconds of the
// fastest of three pictures and the mean of their light.
#include <embree3/rtcore.h>
#include <atomic>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <limits>
#include <thread>
#include <vector>

struct V { float x, y, z; };
static V operator+(V a, V b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
static V operator-(V a, V b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
static V operator*(V a, float k) { return {a.x * k, a.y * k, a.z * k}; }
static float dot(V a, V b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
static V unit(V a) { return a * (1 / std::sqrt(dot(a, a))); }

struct Rng {
  uint64_t s;
  float next() {  // PCG32
    uint64_t o = s;
    s = o * 6364136223846793005ull + 1442695040888963407ull;
    uint32_t x = uint32_t(((o >> 18) ^ o) >> 27), r = uint32_t(o >> 59);
    return float((x >> r | x << ((-r) & 31)) >> 8) * (1.0f / (1 << 24));
  }
};

static const float pi = 3.14159265f, albedo = 0.8f, sky = 0.8f;
static const V box = {0.6f, 1.5f, 0.3f};          // centre of the softbox, which shines straight down
static const float half = 0.4f, strength = 8, area = 4 * half * half;
static RTCScene scene;

static bool hit(V o, V d, RTCRayHit& h) {
  RTCIntersectContext c;
  rtcInitIntersectContext(&c);
  h = RTCRayHit{};
  h.ray.org_x = o.x, h.ray.org_y = o.y, h.ray.org_z = o.z;
  h.ray.dir_x = d.x, h.ray.dir_y = d.y, h.ray.dir_z = d.z;
  h.ray.tfar = std::numeric_limits<float>::infinity();
  h.ray.mask = ~0u;
  h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  rtcIntersect1(scene, &c, &h);
  return h.hit.geomID != RTC_INVALID_GEOMETRY_ID;
}

static bool dark(V o, V d, float far) {
  RTCIntersectContext c;
  rtcInitIntersectContext(&c);
  RTCRay r{};
  r.org_x = o.x, r.org_y = o.y, r.org_z = o.z, r.dir_x = d.x, r.dir_y = d.y, r.dir_z = d.z;
  r.tfar = far, r.mask = ~0u;
  rtcOccluded1(scene, &c, &r);
  return r.tfar < 0;
}

static float heuristic(float a, float b) { float r = b / a; return 1 / (1 + r * r); }

// The softbox's density by solid angle along d from o, and its distance, where it is met from below.
static bool lamp(V o, V d, float& t, float& pdf) {
  if (d.y <= 0) return false;
  t = (box.y - o.y) / d.y;
  V q = o + d * t - box;
  if (t <= 0 || std::fabs(q.x) > half || std::fabs(q.z) > half) return false;
  pdf = t * t / (d.y * area);
  return true;
}

static float path(V o, V d, Rng& g) {
  float light = 0, through = 1, density = 0;
  for (int bounce = 0;; bounce++) {
    RTCRayHit h;
    bool met = hit(o, d, h);
    if (bounce > 0) {
      if (!met) light += through * sky * heuristic(density, 0.5f / (4 * pi));
      float t, pdf;
      if (lamp(o, d, t, pdf) && (!met || t < h.ray.tfar)) light += through * strength * heuristic(density, 0.5f * pdf);
    }
    if (!met || bounce > 4) return light;
    V n = unit({h.hit.Ng_x, h.hit.Ng_y, h.hit.Ng_z});
    if (dot(n, d) > 0) n = n * -1;
    V p = o + d * h.ray.tfar + n * 2e-5f;
    {
      V w;
      float pdf, far = std::numeric_limits<float>::infinity(), l;
      float u = g.next(), v = g.next();
      if (g.next() < 0.5f) {
        float z = 1 - 2 * u, r = std::sqrt(std::fmax(0.f, 1 - z * z));
        w = {r * std::cos(2 * pi * v), z, r * std::sin(2 * pi * v)};
        pdf = 0.5f / (4 * pi), l = sky;
      } else {
        V q = box + V{half * (2 * u - 1), 0, half * (2 * v - 1)} - p;
        far = std::sqrt(dot(q, q));
        w = q * (1 / far);
        pdf = w.y > 0 ? 0.5f * far * far / (w.y * area) : 0, l = strength;
        far *= 1 - 1e-5f;
      }
      float cos = dot(w, n);
      if (pdf > 0 && cos > 0 && !dark(p, w, far)) light += through * l * albedo * cos / pi / pdf * heuristic(pdf, cos / pi);
    }
    float s = std::copysign(1.f, n.z), a = -1 / (s + n.z), b = n.x * n.y * a;
    V x = {1 + s * n.x * n.x * a, s * b, -s * n.x}, y = {b, s + n.y * n.y * a, -n.y};
    float u = g.next(), v = 2 * pi * g.next(), r = std::sqrt(u), z = std::sqrt(std::fmax(0.f, 1 - u));
    d = x * (r * std::cos(v)) + y * (r * std::sin(v)) + n * z;
    o = p, density = z / pi, through *= albedo;
    if (bounce >= 2) {
      float keep = std::fmin(0.95f, through);
      if (g.next() >= keep) return light;
      through /= keep;
    }
  }
}

int main(int, char** argv) {
  FILE* f = fopen(argv[1], "rb");
  uint32_t n[2];
  if (!f || fread(n, 4, 2, f) != 2) return 1;
  std::vector<float> pos(3 * n[0]);
  std::vector<uint32_t> idx(3 * n[1]);
  if (fread(pos.data(), 4, pos.size(), f) != pos.size() || fread(idx.data(), 4, idx.size(), f) != idx.size()) return 1;
  int side = atoi(argv[2]), samples = atoi(argv[3]);
  RTCDevice device = rtcNewDevice("");
  scene = rtcNewScene(device);
  rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
  RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  memcpy(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, n[0]), pos.data(), 4 * pos.size());
  memcpy(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, n[1]), idx.data(), 4 * idx.size());
  rtcCommitGeometry(g);
  rtcAttachGeometry(scene, g);
  rtcCommitScene(scene);
  std::vector<float> film(side * side);
  double best = 1e9;
  const float k = std::sqrt(0.5f);
  const V eye = {0, 1, 1}, ahead = {0, -k, -k}, right = {0.36f, 0, 0}, up = {0, 0.36f * k, -0.36f * k};
  for (int round = 0; round < 3; round++) {
    auto t = std::chrono::steady_clock::now();
    std::atomic<int> next{0};
    const int tiles = (side + 15) / 16;
    auto work = [&] {
      for (int i; (i = next++) < tiles * tiles;)
        for (int y = i / tiles * 16; y < std::min(side, i / tiles * 16 + 16); y++)
          for (int x = i % tiles * 16; x < std::min(side, i % tiles * 16 + 16); x++) {
            float sum = 0;
            for (int s = 0; s < samples; s++) {
              Rng g{uint64_t(y * side + x) * 9781 + uint64_t(s) * 6271 + 1};
              g.next();
              V d = unit(ahead + right * (2 * (x + g.next()) / side - 1) + up * (1 - 2 * (y + g.next()) / side));
              sum += path(eye, d, g);
            }
            film[y * side + x] = sum / samples;
          }
    };
    std::vector<std::thread> all;
    for (unsigned i = 0; i < std::thread::hardware_concurrency(); i++) all.emplace_back(work);
    for (auto& w : all) w.join();
    best = std::fmin(best, std::chrono::duration<double>(std::chrono::steady_clock::now() - t).count());
  }
  double mean = 0;
  for (float v : film) mean += v;
  printf("%.6f %.6f\n", best, mean / film.size());
  return 0;
}
