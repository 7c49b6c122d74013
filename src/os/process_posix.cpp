#include "os/process.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "os/host.hpp"

#include <fmt/format.h>
#include <unistd.h>
#include <uv.h>
#include <csignal>
#include <cstring>
#include <map>

extern char** environ;

namespace fibula {
namespace {

constexpr size_t output_limit = 64U << 20U;

/// One running child: its handles, and what it said so far. Lives until libuv has closed all four handles.
struct Child {
  uv_process_t process{};
  uv_pipe_t out{};
  uv_pipe_t err{};
  uv_timer_t timer{};
  std::vector<char> buffer = std::vector<char>(64U << 10U);
  Outcome outcome;
  std::function<void(Outcome)> done;
  std::function<void(std::string_view, bool)> heard;
  size_t* finished = nullptr;
  std::map<Child*, std::unique_ptr<Child>>* owner = nullptr;
  bool foreground = false;
  bool exited = false;
  int open_pipes = 0;
  int open_handles = 0;
};

Child* child_of(const void* data) {
  return static_cast<Child*>(const_cast<void*>(data));
}

void kill_group(const Child& child, int signal = SIGKILL) {
  // Background children lead a group of their own, so that a driver's compilers end with it.
  // The group outlives its leader, whose number is not given to another process while it does.
  const bool reached = !child.foreground && ::kill(-child.process.pid, signal) == 0;
  if (!reached && !child.exited) ::kill(child.process.pid, signal);
}

void on_closed(uv_handle_t* handle) {
  Child* child = child_of(handle->data);
  if (--child->open_handles > 0) return;
  ++*child->finished;
  auto done = std::move(child->done);
  auto outcome = std::move(child->outcome);
  child->owner->erase(child);
  done(std::move(outcome));
}

void close_handle(uv_handle_t* handle) {
  if (uv_is_closing(handle) == 0) uv_close(handle, on_closed);
}

void close_pipe(Child* child, uv_handle_t* pipe) {
  if (uv_is_closing(pipe) != 0) return;
  close_handle(pipe);
  if (--child->open_pipes == 0 && child->exited) {
    close_handle(reinterpret_cast<uv_handle_t*>(&child->process));
    close_handle(reinterpret_cast<uv_handle_t*>(&child->timer));
  }
}

void on_allocate(uv_handle_t* handle, size_t, uv_buf_t* buffer) {
  auto& store = child_of(handle->data)->buffer;
  *buffer = uv_buf_init(store.data(), static_cast<unsigned>(store.size()));
}

void on_read(uv_stream_t* stream, ssize_t count, const uv_buf_t* buffer) {
  Child* child = child_of(stream->data);
  const bool error = stream == reinterpret_cast<uv_stream_t*>(&child->err);
  auto& text = error ? child->outcome.err : child->outcome.out;
  if (count < 0) return close_pipe(child, reinterpret_cast<uv_handle_t*>(stream));
  text.append(buffer->base, static_cast<size_t>(count));
  if (child->heard) child->heard({buffer->base, static_cast<size_t>(count)}, error);
  if (text.size() <= output_limit) return;
  // Somebody watches: what is printed without end is theirs to end.
  if (child->heard) {
    text.erase(0, text.size() / 2);
  } else {
    kill_group(*child);
  }
}

void on_exit(uv_process_t* process, int64_t status, int signal) {
  Child* child = child_of(process->data);
  child->exited = true;
  child->outcome.signal = signal;
  child->outcome.status = signal != 0 ? 128 + signal : static_cast<int>(status);
  if (child->open_pipes > 0) return;
  close_handle(reinterpret_cast<uv_handle_t*>(process));
  close_handle(reinterpret_cast<uv_handle_t*>(&child->timer));
}

void on_timeout(uv_timer_t* timer) {
  Child* child = child_of(timer->data);
  child->outcome.timed_out = true;
  kill_group(*child);
  // A grandchild that escaped may still hold the pipes: they are not waited for.
  close_pipe(child, reinterpret_cast<uv_handle_t*>(&child->out));
  close_pipe(child, reinterpret_cast<uv_handle_t*>(&child->err));
}

/// NAME=value for the child: ours, with the command's own settings over them.
std::vector<std::string> child_environment(const Command& command) {
  std::map<std::string, std::string> values;
  for (char** entry = environ; *entry != nullptr; ++entry) {
    const std::string_view text = *entry;
    const size_t equals = text.find('=');
    if (equals != std::string_view::npos) values[std::string(text.substr(0, equals))] = text.substr(equals + 1);
  }
  for (const auto& name : command.without) values.erase(name);
  for (const auto& [name, value] : command.environment) values[name] = value;
  std::vector<std::string> entries;
  for (const auto& [name, value] : values) entries.push_back(name + "=" + value);
  return entries;
}

std::vector<char*> pointers(std::vector<std::string>& texts) {
  std::vector<char*> result;
  for (auto& text : texts) result.push_back(text.data());
  result.push_back(nullptr);
  return result;
}

}  // namespace

struct ProcessPool::State {
  uv_loop_t loop{};
  uv_timer_t patience{};
  std::map<Child*, std::unique_ptr<Child>> children;
  size_t finished = 0;

  void prepare(Child& child, const Command& command) {
    child.finished = &finished;
    child.owner = &children;
    child.foreground = command.foreground;
    child.heard = command.heard;
    child.open_pipes = 2;
    child.open_handles = 4;
    uv_pipe_init(&loop, &child.out, 0);
    uv_pipe_init(&loop, &child.err, 0);
    uv_timer_init(&loop, &child.timer);
    child.process.data = child.out.data = child.err.data = child.timer.data = &child;
  }

  int spawn(Child& child, const Command& command) {
    auto arguments = command.argv;
    auto settings = child_environment(command);
    auto argument_pointers = pointers(arguments);
    auto setting_pointers = pointers(settings);
    const std::string directory = command.directory.string();
    uv_stdio_container_t streams[3] = {};
    streams[0].flags = command.foreground ? UV_INHERIT_FD : UV_IGNORE;
    streams[1].flags = streams[2].flags =
        command.foreground ? UV_INHERIT_FD : static_cast<uv_stdio_flags>(UV_CREATE_PIPE | UV_WRITABLE_PIPE);
    if (command.foreground) {
      for (int i = 0; i < 3; ++i) streams[i].data.fd = i;
    } else {
      streams[1].data.stream = reinterpret_cast<uv_stream_t*>(&child.out);
      streams[2].data.stream = reinterpret_cast<uv_stream_t*>(&child.err);
    }
    uv_process_options_t options{};
    options.exit_cb = on_exit;
    options.file = argument_pointers[0];
    options.args = argument_pointers.data();
    options.env = setting_pointers.data();
    options.cwd = directory.empty() ? nullptr : directory.c_str();
    options.stdio = streams;
    options.stdio_count = 3;
    options.flags = command.foreground ? 0U : static_cast<unsigned>(UV_PROCESS_DETACHED);
    return uv_spawn(&loop, &child.process, &options);
  }
};

ProcessPool::ProcessPool() : state_(std::make_unique<State>()) {
  uv_loop_init(&state_->loop);
  uv_timer_init(&state_->loop, &state_->patience);
}

ProcessPool::~ProcessPool() {
  for (const auto& [child, owned] : state_->children) {
    child->done = [](const Outcome&) {};
    kill_group(*child);
  }
  uv_close(reinterpret_cast<uv_handle_t*>(&state_->patience), nullptr);
  uv_run(&state_->loop, UV_RUN_DEFAULT);
  uv_loop_close(&state_->loop);
}

Result<void> ProcessPool::start(const Command& command, std::function<void(Outcome)> done) {
  auto owned = std::make_unique<Child>();
  Child* child = owned.get();
  child->done = std::move(done);
  state_->prepare(*child, command);
  state_->children.emplace(child, std::move(owned));
  const int status = state_->spawn(*child, command);
  if (status != 0) {
    child->done = [](const Outcome&) {};
    for (auto* handle : {reinterpret_cast<uv_handle_t*>(&child->process), reinterpret_cast<uv_handle_t*>(&child->out),
                         reinterpret_cast<uv_handle_t*>(&child->err), reinterpret_cast<uv_handle_t*>(&child->timer)}) {
      close_handle(handle);
    }
    while (state_->children.contains(child)) uv_run(&state_->loop, UV_RUN_ONCE);
    return fail({.code = Code::missing_tool,
                 .what = fmt::format("cannot be started: {}", uv_strerror(status)),
                 .file = command.argv.front(),
                 .hint = "install it, or name it with its full path"});
  }
  if (command.limit.count() > 0)
    uv_timer_start(&child->timer, on_timeout, static_cast<uint64_t>(command.limit.count()), 0);
  if (command.foreground) {
    close_pipe(child, reinterpret_cast<uv_handle_t*>(&child->out));
    close_pipe(child, reinterpret_cast<uv_handle_t*>(&child->err));
  } else {
    uv_read_start(reinterpret_cast<uv_stream_t*>(&child->out), on_allocate, on_read);
    uv_read_start(reinterpret_cast<uv_stream_t*>(&child->err), on_allocate, on_read);
  }
  return {};
}

bool ProcessPool::wait(std::chrono::milliseconds at_most) {
  if (state_->children.empty()) return false;
  const size_t before = state_->finished;
  bool over = false;
  if (at_most.count() > 0) {
    state_->patience.data = &over;
    // Again and again: one that is over before the loop begins to wait would let it wait for good.
    const auto time = static_cast<uint64_t>(at_most.count());
    uv_update_time(&state_->loop);
    uv_timer_start(
        &state_->patience, [](uv_timer_t* timer) { *static_cast<bool*>(timer->data) = true; }, time, time);
  }
  while (state_->finished == before && !over) uv_run(&state_->loop, UV_RUN_ONCE);
  uv_timer_stop(&state_->patience);
  return true;
}

void ProcessPool::end_all(End how) {
  for (const auto& [child, owned] : state_->children) {
    kill_group(*child, how == End::ask ? SIGTERM : SIGKILL);
    if (how == End::ask) continue;
    // What a command started may have escaped, and still hold the pipes: it is not waited for.
    close_pipe(child, reinterpret_cast<uv_handle_t*>(&child->out));
    close_pipe(child, reinterpret_cast<uv_handle_t*>(&child->err));
  }
}

size_t ProcessPool::running() const {
  return state_->children.size();
}

std::string signal_name(int signal) {
  const char* name = ::strsignal(signal);
  return name != nullptr ? name : "unknown";
}

int process_number() {
  return ::getpid();
}

Result<Outcome> run(const Command& command) {
  ProcessPool pool;
  Outcome outcome;
  auto started = pool.start(command, [&](Outcome ended) { outcome = std::move(ended); });
  if (!started) return pass(started);
  pool.wait();
  return outcome;
}

Result<fs::path> find_program(std::string_view name) {
  const auto runnable = [](const fs::path& path) {
    std::error_code ignored;
    return fs::is_regular_file(path, ignored) && is_executable(path);
  };
  if (name.find('/') != std::string_view::npos) {
    if (runnable(fs::path(name))) return absolute_path(name);
  } else {
    const std::string path = environment("PATH").value_or("/usr/bin:/bin");
    for (const auto folder : text::split(path, ':')) {
      if (!folder.empty() && runnable(fs::path(folder) / name)) return fs::path(folder) / name;
    }
  }
  return fail({.code = Code::missing_tool,
               .what = "not found",
               .file = std::string(name),
               .hint = "install it, or name it with its full path"});
}

}  // namespace fibula
