-- What an editor adds to the language server: chunks run from where the cursor stands, their output in a window, the proof.
local worn = {}
local OUTPUT = "worn: output"
local clients = {} -- by the folder that a server was started in

-- The program of the page's own environment, else the one that is installed.
local function program(folder)
  local here = folder
  while true do
    for _, name in ipairs({ ".venv/bin/worn", "venv/bin/worn" }) do
      local path = here .. "/" .. name
      if vim.fn.executable(path) == 1 then return path end
    end
    local above = vim.fn.fnamemodify(here, ":h")
    if above == here then break end
    here = above
  end
  return vim.fn.executable("worn") == 1 and "worn" or nil
end

-- The folder of the project: where its settings lie, else that of the page.
local function root_of(folder)
  local found = vim.fn.findfile("worn.yaml", folder .. ";")
  if found == "" then found = vim.fn.findfile("volume.yaml", folder .. ";") end
  return found ~= "" and vim.fn.fnamemodify(found, ":p:h") or folder
end

local function warn(words) vim.notify(words, vim.log.levels.WARN) end

-- Lines in a window below, which is kept for the next.
function worn.show(lines)
  local buffer = vim.fn.bufnr("^" .. vim.fn.escape(OUTPUT, ": ") .. "$")
  if buffer < 0 then
    buffer = vim.api.nvim_create_buf(false, true)
    vim.api.nvim_buf_set_name(buffer, OUTPUT)
  end
  vim.bo[buffer].modifiable = true
  vim.api.nvim_buf_set_lines(buffer, 0, -1, false, lines)
  vim.bo[buffer].modifiable = false
  if vim.fn.bufwinid(buffer) < 0 then
    local window = vim.api.nvim_get_current_win()
    vim.cmd("botright " .. math.min(#lines + 1, 14) .. "split")
    vim.api.nvim_win_set_buf(0, buffer)
    vim.wo.number, vim.wo.wrap = false, true
    vim.api.nvim_set_current_win(window)
  end
end

-- What the server says: one line as a message, more in the window.
local function said(_, told)
  local lines = vim.split(told.message or "", "\n")
  local grave = told.type == 1 and vim.log.levels.ERROR or vim.log.levels.INFO
  if #lines > 1 then worn.show(lines) else vim.notify(lines[1], grave) end
end

-- What can be done with each chunk, above it.
function worn.lenses(buffer)
  for _, client in pairs(vim.lsp.buf_get_clients(buffer)) do
    if client.name == "worn" and client.initialized then vim.api.nvim_buf_call(buffer, vim.lsp.codelens.refresh) end
  end
end

local function start(command, root)
  return vim.lsp.start_client({
    name = "worn",
    cmd = { command, "lsp" },
    root_dir = root,
    workspace_folders = { { uri = vim.uri_from_fname(root), name = root } },
    on_attach = function(_, buffer) worn.lenses(buffer) end,
    handlers = { ["window/showMessage"] = said },
    on_exit = function() clients[root] = nil end,
  })
end

-- Whether a file is a page, and not just any Markdown.
local function is_page(buffer)
  local lines = vim.api.nvim_buf_get_lines(buffer, 0, -1, false)
  if lines[1] and lines[1]:match("^%-%-%-%s*$") then return true end
  for _, line in ipairs(lines) do
    if line:match("^%s*[`~][`~][`~]+%s*[%w_-]+%s+run%f[%W]") or line:match("{[=%l]+ ") then return true end
  end
  return false
end

function worn.attach(buffer)
  local name = vim.api.nvim_buf_get_name(buffer)
  if name == "" or vim.bo[buffer].buftype ~= "" or not is_page(buffer) then return end
  local folder = vim.fn.fnamemodify(name, ":p:h")
  local command, root = program(folder), root_of(folder)
  if not command then return end
  clients[root] = clients[root] or start(command, root)
  if not clients[root] then return end
  vim.lsp.buf_attach_client(buffer, clients[root])
  vim.bo[buffer].omnifunc = "v:lua.vim.lsp.omnifunc"
  worn.commands(buffer, command, name)
end

-- The chunk that the cursor is in, or the last above it, run as the server runs it.
local function run(buffer, how)
  if vim.bo[buffer].modified then vim.cmd("silent update") end
  local line = vim.api.nvim_win_get_cursor(0)[1] - 1
  vim.lsp.buf_request(buffer, "textDocument/codeLens", { textDocument = vim.lsp.util.make_text_document_params(buffer) }, function(_, lenses)
    local chosen
    for _, lens in ipairs(lenses or {}) do
      if lens.command.arguments[2] == how and lens.range.start.line <= line then chosen = lens end
    end
    if not chosen then return warn("no chunk begins above this line") end
    vim.notify("running " .. chosen.command.arguments[3] .. " …")
    vim.lsp.buf_request(buffer, "workspace/executeCommand", { command = chosen.command.command, arguments = chosen.command.arguments }, function() end)
  end)
end

-- What the program says, in the window; `done` hears how it ended.
local function call(command, arguments, folder, done)
  local lines = {}
  local function hear(_, data) for _, line in ipairs(data) do if line ~= "" then table.insert(lines, line) end end end
  return vim.fn.jobstart(vim.list_extend({ command }, arguments), {
    cwd = folder, stdout_buffered = true, stderr_buffered = true, on_stdout = hear, on_stderr = hear,
    on_exit = function(_, status) done(status, lines) end,
  })
end

function worn.commands(buffer, command, name)
  local folder, page = vim.fn.fnamemodify(name, ":p:h"), vim.fn.fnamemodify(name, ":t")
  local function add(word, act, options) vim.api.nvim_buf_create_user_command(buffer, word, act, options or {}) end
  add("WornRun", function() run(buffer, "--only") end, { desc = "Run this chunk" })
  add("WornRunDown", function() run(buffer, "--up-to") end, { desc = "Run all chunks down to this one" })
  add("WornPress", function(asked)
    vim.cmd("silent update")
    local as = asked.args ~= "" and { "--as", asked.args } or {}
    call(command, vim.list_extend({ "press", page }, as), folder, function(_, lines) worn.show(lines) end)
  end, { nargs = "?", desc = "Press the page" })
  add("WornProof", function()
    if vim.b[buffer].worn_proof then vim.fn.jobstop(vim.b[buffer].worn_proof) end
    vim.b[buffer].worn_proof = call(command, { "proof", page }, folder, function(status, lines)
      if status ~= 0 and status < 128 then worn.show(lines) end
    end)
  end, { desc = "Show the page in the browser as it is written" })
  vim.api.nvim_create_autocmd({ "BufEnter", "BufWritePost", "InsertLeave" }, {
    group = vim.api.nvim_create_augroup("worn-lenses-" .. buffer, {}),
    buffer = buffer,
    callback = function() worn.lenses(buffer) end,
  })
end

return worn
