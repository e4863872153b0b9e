-- Help with pages of Worn Page: started for Markdown where the program `worn` is to be had.
if vim.g.loaded_worn then return end
vim.g.loaded_worn = true

vim.g.markdown_fenced_languages = vim.g.markdown_fenced_languages or { "python", "r", "sql", "bash=sh", "yaml" }

local group = vim.api.nvim_create_augroup("worn", {})
vim.api.nvim_create_autocmd("FileType", {
  group = group,
  pattern = "markdown",
  callback = function(event) require("worn").attach(event.buf) end,
})
